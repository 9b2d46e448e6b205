"""Expressions: what is looked for in texts, as one types it."""

import re
from dataclasses import dataclass

from millstone.core.base.errors import UsageError
from millstone.core.tokenise.token_rules import patterns_under
from millstone.core.tokenise.words import entry_words

_COMMA = re.compile(r"(?<!\d),|,(?!\d)")
_OF_REGEX = re.compile(r"[\^$\[\]|\\]")
TYPED = "type words: hut, with * for any characters and ? for one, several in a row, commas between alternatives"


@dataclass(frozen=True)
class Expression:
    """An expression: a place fits it if it fits any of its rows of words.

    Attributes
    ----------
    name : str
        What its node is called.
    rows : tuple of tuple of str
        Alternatives, each a pattern for each word in a row: ``*`` any run of characters, ``?`` one letter or digit.
    """

    name: str
    rows: tuple[tuple[str, ...], ...]


def expression_from(typed: str, option: str = "--find", rule: str = "words") -> Expression:
    """Read an expression: words in a row, commas between alternatives, ``NAME=`` before it to name it.

    Parameters
    ----------
    typed : str
    option : str
        Where it was typed, for messages.
    rule : str
        The token rule; under ``characters`` it is cut into characters, as texts are.

    Returns
    -------
    Expression
        Its words, and its name.

    Raises
    ------
    UsageError
        For one that is empty or only wildcards, an exception, or a regular expression.

    Examples
    --------
    >>> expression_from("roof=hut, mountain hut*")
    Expression(name='roof', rows=(('hut',), ('mountain', 'hut*')))
    """
    where = f"{option} {typed!r}" if typed.strip() else option
    name, between, text = typed.rpartition("=")
    name, text = name.strip(), text.strip()
    if between and not name:
        raise UsageError(f"{where} has no name before the =", "write NAME=EXPRESSION, or only the expression")
    if not text:
        raise UsageError(f"{where}: the expression is empty", TYPED)
    if found := _OF_REGEX.search(text):
        raise UsageError(
            f"{where}: {found[0]} has no meaning in an expression, which is not a regular expression", TYPED
        )
    rows = tuple(patterns_under(rule, _row(part.strip(), where)) for part in _COMMA.split(text) if part.strip())
    if not rows:
        raise UsageError(f"{where}: the expression is empty", TYPED)
    return Expression(" ".join((name or text).split()), rows)


def _row(text: str, where: str) -> tuple[str, ...]:
    if text.startswith("!"):
        raise UsageError(
            f"{where}: an expression has no exceptions",
            "leave the ! out, or use a dictionary, whose entries may have it",
        )
    words = tuple(word for piece in text.split() for word in entry_words(piece))
    if not words:
        raise UsageError(f"{where}: {text!r} has no word in it", TYPED)
    if not "".join(words).strip("*?"):
        raise UsageError(f"{where}: {text!r} is only wildcards and would fit every word", "add a word beside them")
    return words
