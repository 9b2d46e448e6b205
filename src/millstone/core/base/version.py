"""The version of millstone."""

VERSION = "0.19.0"
