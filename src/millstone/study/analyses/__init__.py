"""The analyses: what each command asks of the core."""
