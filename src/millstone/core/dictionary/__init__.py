"""Categories of word patterns: the dictionary, its check, its entries in texts, scores, and how each word counted."""
