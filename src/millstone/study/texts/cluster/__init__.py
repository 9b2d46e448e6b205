"""A corpus read and scanned by the workers of a cluster."""
