"""Texts: one module a format."""
