"""Checks of texts."""
