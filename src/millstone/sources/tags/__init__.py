"""Parts of speech and lemmas of raw text, guessed by a tagger."""
