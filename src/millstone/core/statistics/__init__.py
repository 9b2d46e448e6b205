"""Measures and tests: of two corpora, of words together, of the variety of a text, of groups and of terms."""
