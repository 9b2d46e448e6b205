"""Dispersion."""
