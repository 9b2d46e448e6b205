"""The commands that do not analyse texts."""
