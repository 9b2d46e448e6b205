"""One comparison of two sides: its terms, what is computed of them, which are listed, and the notes on them."""
