"""Tests and intervals in which a sampling unit is one observation."""
