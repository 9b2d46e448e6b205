"""Pages, each one file."""
