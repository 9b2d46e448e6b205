"""Collocates."""
