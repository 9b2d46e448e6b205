"""The version of millstone."""

VERSION = "0.16.0"
