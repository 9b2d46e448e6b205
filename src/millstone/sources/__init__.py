"""From files to documents: one module a format, one table that says which ending goes where."""
