"""A reference list from elsewhere: how frequent a term is in the language at large."""

from collections.abc import Mapping

import numpy as np

from millstone.core.base.light_dataclass import frozen

LACKING = 0.5
"""The occurrences that a term counts with when the list lacks it."""


@frozen
class Background:
    """A frequency list: its name, the occurrences of its terms, and the tokens of its corpus."""

    name: str
    freq: Mapping[str, float]
    tokens: float

    def freq_of(self, terms: np.ndarray) -> np.ndarray:
        """(terms,) float occurrences, 0.5 for what the list lacks."""
        return np.array([self.freq.get(term, LACKING) for term in terms.tolist()], dtype=float)

    def per_million(self, terms: np.ndarray) -> np.ndarray:
        """(terms,) occurrences per million tokens of the list."""
        return 1e6 * self.freq_of(terms) / self.tokens
