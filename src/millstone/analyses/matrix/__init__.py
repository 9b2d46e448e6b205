"""The documents x terms matrix."""
