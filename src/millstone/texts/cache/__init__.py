"""Scans and lemmas kept in the cache folder."""
