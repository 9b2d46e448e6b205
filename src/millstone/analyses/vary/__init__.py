"""Vary: one analysis under many settings."""
