"""Small pieces of wording that messages, screens and figures share."""

import re
from collections.abc import Iterable


def numbered(number: int, noun: str, plural: str = "") -> str:
    """``1 row``, ``2,000 rows``; `plural` where it is not made with s."""
    return f"{number:,} {noun if number == 1 else plural or noun + 's'}"


NAMED = 5
"""How many names a message lists; of the rest it gives the number."""


def listed(names: Iterable[object], most: int = NAMED, between: str = ", ") -> str:
    """``a, b, c``; of more than `most`, the first of them and how many more there are.

    Examples
    --------
    >>> listed("abcdefgh", 3)
    'a, b, c and 5 more'
    """
    every = list(map(str, names))
    rest = len(every) - most
    # one more name takes no more room than the number would
    return between.join(every) if rest < 2 else f"{between.join(every[:most])} and {rest:,} more"


_QUOTED = 30


def quoted_entries(entries: Iterable[str]) -> str:
    """Entries of a list in quotation marks, few of them and each cut short: a note is no place for a list.

    Examples
    --------
    >>> quoted_entries(["ice", "a line that is too long for an entry"])
    "'ice', 'a line that is too long for an…'"
    """
    return listed(map(quoted_entry, entries))


def beginning_of(text: str, most: int = 80) -> str:
    """A text for a message: of a longer one its beginning."""
    return text if len(text) <= most else f"{text[:most]}\u2026"


def quoted_entry(entry: str) -> str:
    """An entry of a list in quotation marks, cut short."""
    return repr(beginning_of(entry, _QUOTED))


_HALVES = re.compile("[\ud800-\udfff]")


def escaped(text: str) -> str:
    """A text with what is not a character written as an escape: a byte of a name that is not UTF-8, half a character.

    Examples
    --------
    >>> escaped("bad" + chr(0xDCFF)) == "bad" + chr(92) + "xff"
    True
    """
    return _HALVES.sub(_escape, text) if _HALVES.search(text) else text


def _escape(found: re.Match[str]) -> str:
    code = ord(found[0])
    # bytes that are not text stand here in names of files (PEP 383)
    return f"\\x{code - 0xDC00:02x}" if 0xDC80 <= code <= 0xDCFF else f"\\u{code:04x}"


def one_of(plural: str, number: int) -> str:
    """The noun for so many things: ``links`` of two links, ``link`` of one."""
    singular = {"entities": "entity", "markup": "piece of markup", "hyphens": "broken word"}
    many = {"markup": "pieces of markup", "hyphens": "broken words"}
    if plural.startswith("pattern:"):
        return f"{'match' if number == 1 else 'matches'} of {plural.removeprefix('pattern:')}"
    return singular.get(plural, plural.removesuffix("s")) if number == 1 else many.get(plural, plural)


def of_memory(size: float) -> str:
    """``250 MB``, ``2.1 GB``: so many bytes in units of 2^20 or 2^30."""
    return f"{size / (1 << 30):,.1f} GB" if size >= 1 << 30 else f"{size / (1 << 20):.0f} MB"


def nearest(name: str, known: Iterable[str]) -> str:
    """``; did you mean 'x'?`` or nothing."""
    # asked only when something is wrong
    import difflib

    by_lower = {one.lower(): one for one in known}
    close = difflib.get_close_matches(name.lower(), by_lower, n=1, cutoff=0.6)
    return f"; did you mean {by_lower[close[0]]!r}?" if close else ""


def nearest_word(word: str, known: Iterable[str]) -> str:
    """The known word most like another, or nothing."""
    import difflib

    return next(iter(difflib.get_close_matches(word.lower(), list(known), n=1, cutoff=0.6)), "")


def likeness(word: str, other: str) -> float:
    """How alike two words are, from 0 to 1."""
    import difflib

    return difflib.SequenceMatcher(None, word, other).ratio()


def nearest_names(name: str, known: Iterable[str]) -> str:
    """The known names; of many, those most like `name`, and how many more there are."""

    def unlike(one: str) -> float:
        return -likeness(name.lower(), one.lower())

    names = [str(one) for one in known]
    likest: list[str] = sorted(names, key=unlike)
    return listed(likest if len(names) > NAMED + 1 else names)
