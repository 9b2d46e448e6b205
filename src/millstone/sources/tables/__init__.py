"""Tables: one module per format, and what all of them give."""
