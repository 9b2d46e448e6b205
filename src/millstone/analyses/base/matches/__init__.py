"""Nodes, their matches in the texts, and the way back from a number to its matches."""
