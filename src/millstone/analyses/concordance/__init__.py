"""Concordances."""
