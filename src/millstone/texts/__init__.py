"""The texts of a step: found, read, cleaned, scanned, kept, counted."""
