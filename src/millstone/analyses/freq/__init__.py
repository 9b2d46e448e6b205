"""Frequency lists."""
