"""One module per format of tables."""
