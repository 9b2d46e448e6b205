"""Large sparse matrices, and long arrays that may lie on disk."""
