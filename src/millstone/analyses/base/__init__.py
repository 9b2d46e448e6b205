"""Shared by the analyses: commands, steps, terms, nodes, pairs of groups."""
