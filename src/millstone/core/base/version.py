"""The version of millstone."""

VERSION = "0.17.0"
