"""Differences between groups."""
