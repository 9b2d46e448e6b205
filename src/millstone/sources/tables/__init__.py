"""Tables: one module a format, and what all of them give."""
