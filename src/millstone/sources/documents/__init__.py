"""Texts: one module per format."""
