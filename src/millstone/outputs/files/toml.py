"""TOML: text from data as a string or in a comment, and key terms as a dictionary."""

import unicodedata
from collections.abc import Mapping, Sequence

import tomli_w

from millstone.core.base.wildcards import has_wildcards


def toml_string(text: str) -> str:
    """A text as a basic string of TOML, whatever signs it has.

    Examples
    --------
    >>> print(toml_string('a"b' + chr(10) + "[[step]]"))
    "a\\"b\\n[[step]]"
    """
    return tomli_w.dumps({"text": _whole(text)}).partition(" = ")[2].rstrip("\n")


def toml_comment(text: str) -> str:
    """A text that may stand in a comment, on one line."""
    return "".join(" " if unicodedata.category(sign) in ("Cc", "Zl", "Zp") else sign for sign in _whole(text))


def as_dictionary(terms: Mapping[str, Sequence[str]], title: str) -> tuple[bytes, int]:
    """A dictionary in TOML, and how many terms cannot be entries, since they hold signs that mean something there.

    Parameters
    ----------
    terms : mapping
        Category -> its entries.
    title : str
    """
    kept = {
        category: [one for one in entries if not one.startswith("!") and not has_wildcards(one)]
        for category, entries in terms.items()
    }
    passed_over = sum(map(len, terms.values())) - sum(map(len, kept.values()))
    categories = {_whole(category): [_whole(one) for one in entries] for category, entries in kept.items()}
    return tomli_w.dumps({"title": _whole(title), "categories": categories}).encode("utf-8"), passed_over


def _whole(text: str) -> str:
    """The text with halves of surrogate pairs replaced, which no file in UTF-8 can hold."""
    return text.encode("utf-8", "replace").decode("utf-8")
