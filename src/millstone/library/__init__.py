"""The analyses from Python: a function per command, with its options as keyword arguments."""
