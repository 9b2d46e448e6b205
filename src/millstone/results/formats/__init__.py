"""A table as the bytes of a file: one module per format, and one that picks it."""
