"""Measures: of two corpora, of words together, of the variety of a text; p values and means."""
