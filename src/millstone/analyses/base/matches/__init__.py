"""What a step looks for, its matches in the texts, and the way back from a number to them."""
