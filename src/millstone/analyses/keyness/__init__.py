"""Keyness."""
