"""Weighted log odds."""
