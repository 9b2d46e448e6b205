"""Sentences with numbers that lead to the rows they stand in."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from millstone.core.base.wording import numbered
from millstone.core.corpus.corpus import GroupSize, whole_size
from millstone.core.corpus.group_names import REST
from millstone.core.tables.result import Result

ALPHA = 0.05
MOST_LISTS = 3
"""So many lists or comparisons are told of; the others are in the table."""
MOST = 3
"""So many rows are named each way."""
Key = tuple[str, ...]
"""A row: the names of its list, and what it is of."""


@dataclass(frozen=True)
class Number:
    """A number as it is read, and the row it stands in."""

    text: str
    row: Key


@dataclass(frozen=True)
class Sentence:
    """A sentence: text, and numbers within it; one that `opens` is the first on a list or comparison."""

    parts: tuple[str | Number, ...]
    opens: bool = False

    def __str__(self) -> str:
        return "".join(part if isinstance(part, str) else part.text for part in self.parts)


def sentence(*parts: str | Number) -> Sentence:
    """A sentence of its parts."""
    return Sentence(parts)


def opening(*parts: str | Number) -> Sentence:
    """The first sentence on a list or comparison."""
    return Sentence(parts, opens=True)


Item = list[str | Number]
"""A part of a list within a sentence."""


def several(items: Sequence[Item], between: str = "; ") -> Item:
    """Parts of several items, one after the other."""
    found: Item = []
    for at, item in enumerate(items):
        found += [between] if at else []
        found += item
    return found


def lists_of(result: Result) -> Iterator[tuple[tuple[str, ...], list[Mapping[str, Any]]]]:
    """The names of each list of a result, and its rows, the first few lists only."""
    blocks = result.blocks
    every = list(result.table.by(blocks)) if blocks else [((), result.table)]
    for names, rows in every[:MOST_LISTS]:
        yield tuple(map(str, names)), list(rows.rows())


def left_over(result: Result) -> list[Sentence]:
    """A remark on the lists that are in the table and were not told of, if there are any."""
    more = len(list(result.table.by(result.blocks))) - MOST_LISTS if result.blocks else 0
    return (
        [sentence(f"{numbered(more, 'more list')} {'is' if more == 1 else 'are'} in the table.")] if more > 0 else []
    )


def group_in_words(result: Result, name: str, apart: str = "") -> str:
    """A group with its size; ``the rest`` with that of all groups but one."""
    sizes: Sequence[GroupSize] = result.groups
    if name == REST:
        sizes = [size for size in sizes if size.name != apart]
        return f"the rest ({_size(sizes)})" if sizes else "the rest"
    own = [size for size in sizes if size.name == name]
    return f"{name} ({_size(own)})" if own else name


def _size(sizes: Sequence[GroupSize]) -> str:
    whole = whole_size(sizes)
    # without a companion the sizes are not known
    return f"{whole.number}, {numbered(whole.tokens, 'token')}" if whole.tokens else "of unknown size"


def is_known(value: Any) -> bool:
    """Whether a cell holds a number."""
    return isinstance(value, int | float) and not math.isnan(value)


def plain(value: float, digits: int = 2) -> str:
    """A number with so many digits that tell something, and without an exponent where it can be read so."""
    if not value:
        return "0"
    size = math.floor(math.log10(abs(value)))
    return f"{value:,.{max(digits - 1 - size, 0)}f}" if size >= _LEAST else f"{value:.0e}"


def times(log_ratio: float) -> str:
    """The ratio of a binary logarithm, as how many times."""
    return plain(2**log_ratio) if log_ratio < _LARGEST else f"over {2**_LARGEST:,}"


_LARGEST = 30
_LEAST = -4
