"""Reading: where expressions occur, their contexts, what is near them, and how evenly."""
