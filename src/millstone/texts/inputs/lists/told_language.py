"""The language of texts, told from the function words in them."""

from collections import Counter
from collections.abc import Mapping
from functools import cache

from millstone.core.base.light_dataclass import frozen
from millstone.texts.inputs.lists.languages import CODES
from millstone.texts.inputs.lists.word_lists import read_stop_list, stop_list_codes

LEAST_SHARE = 0.2
"""Function words of its language make up so much of a text at least."""
TIMES_NEXT = 3
"""And so many times as much as words that another language alone would explain."""


@frozen
class Told:
    """A language that was told: its code, and the share of its function words among the tokens."""

    code: str
    share: float

    @property
    def in_words(self) -> str:
        """As ``en (41 % function words)``."""
        return f"{self.code} ({100 * self.share:.0f} % function words)"


@cache
def function_words(code: str) -> frozenset[str]:
    """The function words of a language, in small letters."""
    return frozenset(entry.lower() for entry in read_stop_list(code).entries)


def told_language(counted: Mapping[str, int], tokens: int) -> Told | None:
    """The language whose function words are commonest, if they are common enough.

    Parameters
    ----------
    counted : mapping
        Word in small letters -> occurrences, of the commonest words at least.
    tokens : int
        All tokens.

    Returns
    -------
    Told or None
        Where the words of the best list make up more than a fifth of the tokens, and three times as much as those
        that only the next list has. (Lists of related languages share words.)
    """
    if not tokens:
        return None
    times = Counter({code: _times(counted, function_words(code)) for code in stop_list_codes()})
    best, most = times.most_common(1)[0]
    if most <= LEAST_SHARE * tokens:
        return None
    own = function_words(best)
    further = max(_times(counted, function_words(code) - own) for code in times if code != best)
    return Told(best, most / tokens) if most >= TIMES_NEXT * further else None


def share_of(code: str, counted: Mapping[str, int], tokens: int) -> float:
    """The share of a language's function words among the tokens."""
    return _times(counted, function_words(code)) / tokens if tokens else 0.0


def language_name(code: str) -> str:
    """The English name of a language; its code where none is known."""
    return next((name.capitalize() for name, one in CODES.items() if one == code), code)


def _times(counted: Mapping[str, int], words: frozenset[str]) -> int:
    return sum(counted.get(word, 0) for word in words)
