"""Expressions, the places where they match, and the tokens around them."""
