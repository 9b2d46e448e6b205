"""How words belong together: networks of terms, and words used alike."""
