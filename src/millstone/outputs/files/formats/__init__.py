"""One module per file format."""
