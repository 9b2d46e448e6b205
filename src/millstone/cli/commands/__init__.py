"""The commands that are no analysis of texts into a table."""
