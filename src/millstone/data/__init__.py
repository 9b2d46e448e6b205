"""Stop lists and the sample corpus."""
