"""Reading: where expressions stand, their contexts, what stands near them, and how evenly."""
