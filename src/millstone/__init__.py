"""millstone: frequency lists, keyness, weighted log odds and dictionary categories for several sub-corpora."""

__version__ = "0.9.0"
