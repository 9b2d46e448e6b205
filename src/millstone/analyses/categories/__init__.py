"""Categories of a dictionary."""
