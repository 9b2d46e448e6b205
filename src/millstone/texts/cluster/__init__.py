"""Scans made by the workers of a cluster."""
