"""One module per format of texts."""
