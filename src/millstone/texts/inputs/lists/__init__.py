"""Frequency lists, word lists, lemmas and dictionaries."""
