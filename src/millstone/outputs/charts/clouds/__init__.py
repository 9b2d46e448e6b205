"""Word clouds: outlines of words, packed into panels."""
