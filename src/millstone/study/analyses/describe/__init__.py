"""What is in the texts: lists, profiles, matrices, and what looks wrong."""
