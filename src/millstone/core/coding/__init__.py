"""Units coded by hand: how far coders agree, and how right a category is."""
