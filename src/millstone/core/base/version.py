"""The version of millstone."""

VERSION = "0.15.0"
