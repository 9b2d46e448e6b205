"""From a table to a file and back."""
