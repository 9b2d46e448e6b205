"""How the value of a setting is written: kinds, each of which reads and checks."""

import os
import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from millstone.core.base.addresses import holds_secret
from millstone.core.base.patterns import fault_of_regex
from millstone.core.base.wording import beginning_of, nearest
from millstone.core.settings.kind import Kind

if TYPE_CHECKING:
    pass

_CLASS = re.compile(r"[a-z]{2}(?::[a-z_]+)?")
_SIZE = re.compile(r"(\d{1,9}(?:\.\d{1,9})?)\s*([MG])(?:i?B)?", re.ASCII | re.IGNORECASE)
_FIGURE = re.compile(r"(\d{1,5}(?:\.\d{1,3})?)\s*x\s*(\d{1,5}(?:\.\d{1,3})?)\s*(in|mm|px)?")
# of a figure; a side may be a hundred times as long
_LEAST_SIDE = {"in": 1.0, "mm": 25.0, "px": 100.0}
_LARGEST_SIDE = 100
_UNITS = {"M": 20, "G": 30}
_LEAST_SIZE = 100 << 20


# one that does not take a sign of a pattern as it stands
_BACKSLASH = re.compile(r"\\(?![*?])")
# single letters with a stop between them, and signs of a pattern
_ABBREVIATION = re.compile(r"[^\W\d_](\.[^\W\d_])+[.*?]*")


def looks_like_path(value: str) -> bool:
    """A file is meant when the value contains a slash or an ending, as no number or abbreviation does."""
    if _ABBREVIATION.fullmatch(value):
        return False
    return "/" in value or _BACKSLASH.search(value) is not None or os.path.splitext(value)[1][1:2].isalpha()  # noqa: PTH122 (the other way takes long to import)


LISTS = (".csv", ".tsv", ".xlsx", ".jsonl", ".parquet", ".txt")
"""The endings of frequency lists that an option can name."""


def free_text(metavar: str) -> Kind:
    """Any text; an empty one takes a setting back to its default."""
    return Kind(metavar, str)


def path(metavar: str) -> Kind:
    """The path of a file or folder."""
    return Kind(metavar, path_text, is_path=lambda value: value != "-")


def output_path(metavar: str, alone: str = "") -> Kind:
    """The path of a file that is to be written; in a study it lies in the folder of the results."""
    return Kind(metavar, path_text, is_path=lambda value: value != "-", is_output=True, alone=alone)


def paths(metavar: str) -> Kind:
    """Paths, one each time the option is given."""
    return Kind(metavar, path_text, repeatable=True, is_path=lambda value: True)


def dictionaries(metavar: str) -> Kind:
    """Files, or classes of lists that ship as ``en:pronouns``, one each time the option is given."""
    return Kind(metavar, path_text, repeatable=True, is_path=lambda value: not _CLASS.fullmatch(value))


def merges(metavar: str) -> Kind:
    """Files, or names with the words that count as them, as in ``kin=son,wife``; each time the option is given."""
    return Kind(metavar, path_text, repeatable=True, is_path=lambda value: "=" not in value)


def texts(metavar: str) -> Kind:
    """Any texts, one each time the option is given."""
    return Kind(metavar, _not_empty, repeatable=True)


def words(metavar: str) -> Kind:
    """Words, several with commas or by giving the option again."""
    return Kind(metavar, _not_empty, repeatable=True, split_at=",")


def terms(metavar: str) -> Kind:
    """Words of texts, or patterns of them, several with commas or by giving the option again."""
    return Kind(metavar, _not_empty, repeatable=True, split_at=",", of_words=True)


def words_or_paths(metavar: str) -> Kind:
    """Reserved words, words of texts or files, several with commas or by giving the option again."""
    return Kind(metavar, path_text, repeatable=True, split_at=",", of_words=True, is_path=looks_like_path)


def names(metavar: str) -> Kind:
    """Names with commas between them."""

    def read(typed: str) -> tuple[str, ...]:
        return tuple(part.strip() for part in typed.split(",") if part.strip())

    return Kind(metavar, read, joined_by=",")


def switch() -> Kind:
    """On or off."""
    return Kind("", str, switch=True)


def choice(*allowed: str) -> Kind:
    """One of a few words."""

    def read(typed: str) -> str:
        if typed in allowed:
            return typed
        raise ValueError(f"must be one of {', '.join(allowed)}, not {typed!r}{nearest(typed, allowed)}")

    return Kind("|".join(allowed), read)


def choice_of(known: Callable[[], Sequence[str]]) -> Kind:
    """One of some words that are known when they are asked for, such as the measures of a registry."""
    return Kind("", lambda typed: choice(*known()).read(typed), known=known)


def about_measures(known: Callable[[], Sequence[str]], kind: Kind) -> Kind:
    """The `kind` of a setting about measures, which the whole help lists."""
    return replace(kind, known=known)


def group_or_table(metavar: str, endings: tuple[str, ...]) -> Kind:
    """A name, or the path of a table, known by its ending."""
    return Kind(metavar, _without_secret, is_path=lambda value: value.lower().endswith(endings))


def choice_or_path(metavar: str, *allowed: str) -> Kind:
    """One of a few words, or a file."""
    return Kind(metavar, path_text, is_path=lambda value: value not in allowed)


def words_or_regex(metavar: str, allowed: Iterable[str], prefix: str, repeatable: bool = False) -> Kind:
    """One of a few words, or `prefix` and a regular expression, which is checked."""
    known = list(allowed)

    def read(typed: str) -> str:
        typed = typed.strip()
        if typed.startswith(prefix):
            regex(metavar).read(typed.removeprefix(prefix))
        elif typed not in known:
            choices = ", ".join([*known, f"{prefix}REGEX"])
            raise ValueError(f"must be one of {choices}, not {typed!r}{nearest(typed, known)}")
        return typed

    # commas part words; a regular expression may hold one, and is the last
    return Kind(metavar, read, repeatable=repeatable, split_at="," if repeatable else "", rest_from=prefix)


def regex(metavar: str) -> Kind:
    """A regular expression."""

    def read(typed: str) -> str:
        if fault := fault_of_regex(_not_empty(typed)):
            raise ValueError(f"{beginning_of(typed)!r} {fault}")
        return typed

    return Kind(metavar, read)


MOST = 10**15
"""No whole number that is typed needs to be larger."""


def integer(metavar: str, least: int = 0, or_zero: bool = False, most: int = MOST) -> Kind:
    """A whole number, from `least` to `most`; with `or_zero` also 0, which switches a rule off."""

    def read(typed: str) -> int:
        try:
            value = int(typed)
        except ValueError:
            raise ValueError(f"must be a whole number, not {typed!r}") from None
        if value < least and not (or_zero and value == 0):
            raise ValueError(f"must be {least} or more, not {value}")
        if value > most:
            raise ValueError(f"must be {most:,} or less, not {typed}")
        return value

    return Kind(metavar, read)


def memory_size(metavar: str) -> Kind:
    """A size of memory in bytes, typed as megabytes or gigabytes of 2^20 and 2^30 bytes: 500M, 2G, 1.5 GB."""

    def read(typed: str) -> int:
        found = _SIZE.fullmatch(typed.strip())
        if found is None:
            raise ValueError(f"{typed!r} is not a size: type 2G or 500M")
        size = int(float(found[1]) * (1 << _UNITS[found[2].upper()]))
        if size < _LEAST_SIZE:
            raise ValueError(f"{typed} is too little to work with: type 100M or more")
        return size

    return Kind(metavar, read, shown=lambda size: f"{size / (1 << 30):.3g}G")


def sides(metavar: str, most: int) -> Kind:
    """Two whole numbers, left and right, with a comma between them; one number for both."""

    def read(typed: str) -> tuple[int, int]:
        found = re.fullmatch(r"\s*(?a:(\d{1,9})\s*(?:,\s*(\d{1,9})\s*)?)", typed)
        if not found or max(both := (int(found[1]), int(found[2] or found[1]))) > most:
            raise ValueError(
                f"must be two numbers, left and right, up to {most:,}, such as 5,5, or one for both, not {typed!r}"
            )
        return both

    return Kind(metavar, read, joined_by=",", shown=lambda both: f"{both[0]},{both[1]}")


def choice_or_integer(metavar: str, *allowed: str) -> Kind:
    """One of a few words, or a whole number; the value is the text."""

    def read(typed: str) -> str:
        if typed in allowed:
            return typed
        try:
            return str(integer(metavar).read(typed))
        except ValueError:
            raise ValueError(f"must be a whole number, 0 or more, or {' or '.join(allowed)}, not {typed!r}") from None

    return Kind(metavar, read)


CALENDAR = ("year", "quarter", "month", "decade")
"""The periods of dates that have a name."""


def period(metavar: str) -> Kind:
    """The name of a period of the calendar, or a number above 0; the value is the text."""

    def read(typed: str) -> str:
        if typed in CALENDAR:
            return typed
        try:
            return f"{number(metavar, 0).read(typed):g}"
        except ValueError:
            raise ValueError(f"must be {', '.join(CALENDAR)} or a number above 0, not {typed!r}") from None

    return Kind(metavar, read)


def number(metavar: str, above: float = float("-inf")) -> Kind:
    """A number, larger than `above`."""

    def read(typed: str) -> float:
        try:
            value = float(typed)
        except ValueError:
            raise ValueError(f"must be a number, not {typed!r}") from None
        if not above < value < float("inf") or abs(value) > MOST:
            raise ValueError(f"must be a number{f' above {above:g}' if above > float('-inf') else ''}, not {typed}")
        return value

    return Kind(metavar, read)


def share(metavar: str, or_none: bool = False, alone: str = "") -> Kind:
    """A share: a number above 0, at most 1; with `or_none` also 0. The option `alone` stands for such a one."""

    def read(typed: str) -> float:
        value = number(metavar, above=-1e-300 if or_none else 0).read(typed)
        if value > 1:
            raise ValueError(f"must be a share between 0 and 1, such as 0.05, not {typed}")
        return float(value)

    return Kind(metavar, read, alone=alone)


def figure_size(metavar: str) -> Kind:
    """A width and a height: two numbers with an x between them, in inches unless ``mm`` or ``px`` follows."""

    def read(typed: str) -> tuple[float, float, str]:
        found = _FIGURE.fullmatch(typed.strip().lower())
        sides = (float(found[1]), float(found[2])) if found else (0.0, 0.0)
        unit = (found[3] or "in") if found else "in"
        if not all(_LEAST_SIDE[unit] <= side <= _LEAST_SIDE[unit] * _LARGEST_SIDE for side in sides):
            raise ValueError(f"must be a width and a height such as 6.5x4in, 160x90mm or 1280x800px, not {typed!r}")
        return (*sides, unit)

    return Kind(metavar, read, shown=lambda size: f"{size[0]:g}x{size[1]:g}{size[2]}")


def choice_or_field(metavar: str, *allowed: str, prefixes: Sequence[str]) -> Kind:
    """One of a few words, or a prefix, a colon and the name of a field."""

    def read(typed: str) -> str:
        prefix, _, name = typed.partition(":")
        if typed not in allowed and not (prefix in prefixes and name.strip()):
            choices = ", ".join([*allowed, *(f"{one}:FIELD" for one in prefixes)])
            raise ValueError(f"must be one of {choices}, not {typed!r}")
        return typed

    return Kind(metavar, read)


def positive(metavar: str) -> Kind:
    """A number above 0."""
    return number(metavar, above=0)


def span(metavar: str) -> Kind:
    """A range such as ``4..12``, ``4..`` or ``..12``; one number alone means just that."""

    def read(typed: str) -> tuple[int, int | None]:
        found = re.fullmatch(r"(?a:(\d*)\.\.(\d*)|(\d+))", typed.strip())
        if not found or typed.strip() == "..":
            raise ValueError(f"must be a range such as 4..12, 4.. or ..12, not {typed!r}")
        low, high, only = found.groups()
        least, most = (int(only), int(only)) if only else (int(low or 0), int(high) if high else None)
        if most is not None and most < least:
            raise ValueError(f"the range {typed} runs backwards")
        return least, most

    return Kind(metavar, read)


def sizes(metavar: str, most: int) -> Kind:
    """A size such as ``2``, or a range of sizes such as ``2..4``, from 1 to `most`."""

    def read(typed: str) -> tuple[int, int]:
        try:
            least, largest = span(metavar).read(typed)
        except ValueError as error:
            if "backwards" in str(error):
                raise
            least, largest = 0, None
        if largest is None or least < 1 or largest > most:
            raise ValueError(f"must be a size such as 2, or a range such as 2..4, up to {most}, not {typed!r}")
        return least, largest

    return Kind(metavar, read)


def path_text(typed: str) -> str:
    """A path or an address as it is typed; one that must not be printed is refused.

    Raises
    ------
    ValueError
    """
    return _without_secret(_not_empty(typed))


def _without_secret(typed: str) -> str:
    if "://" in typed and holds_secret(typed):
        raise ValueError("must not hold a user, a password or a key")
    return typed


def _not_empty(typed: str) -> str:
    if not typed.strip():
        raise ValueError("must not be empty")
    return typed
