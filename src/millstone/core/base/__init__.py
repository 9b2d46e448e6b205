"""Foundations that every room uses: errors, array helpers, patterns, wording."""
