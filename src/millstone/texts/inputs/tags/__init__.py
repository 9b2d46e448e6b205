"""Parts of speech of raw text."""
