"""Profiles of groups and documents."""
