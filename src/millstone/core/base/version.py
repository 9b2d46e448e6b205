"""The version of millstone."""

VERSION = "0.20.0"
