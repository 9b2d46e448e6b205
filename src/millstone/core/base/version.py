"""The version of millstone."""

VERSION = "0.18.0"
