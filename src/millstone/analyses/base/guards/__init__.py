"""Guards: mistakes that people make with texts and options, seen in what was read; none changes a number."""
