"""The study: its steps, their settings, carrying them out."""
