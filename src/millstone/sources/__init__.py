"""From files to documents: one module per format, one table that says which ending goes where."""
