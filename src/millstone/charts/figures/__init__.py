"""The figures: a module per table that is drawn."""
