"""The rows of a result in one form, whatever command made it: what a row is of, its effect, whether it passes."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from sys import intern

import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table, distinct_rows, is_missing

BLOCKS = ("group", "node", "target", "reference")
"""The columns that say to which list or comparison a row belongs, of all commands."""
_UNSURE = 1.96


@frozen
class Form:
    """Where a table of a command has what is needed.

    Attributes
    ----------
    blocks : mapping
        Its column -> the one of `BLOCKS` that it is.
    term : str
        The column that names a row of a list.
    effect, low, high : str
        The columns of the effect and the ends of its interval; empty for none.
    p : str
        The column of the adjusted p; empty where nothing is tested.
    freq : tuple of str
        Columns of occurrences, which are added up.
    rank : str
        The column of ranks; empty where rows are ranked by the size of their effect.
    called : str
        The effect in words.
    unit : str
        The unit of the effect.
    """

    blocks: Mapping[str, str]
    term: str
    effect: str
    called: str
    unit: str
    low: str = ""
    high: str = ""
    p: str = ""
    freq: tuple[str, ...] = ()
    rank: str = "rank"

    @property
    def is_signed(self) -> bool:
        """Whether an effect of 0 says that there is no difference."""
        return self.term == "value" or self.effect in ("log_ratio", "log_odds")


_LOG2 = "binary logarithm"
FORMS = {
    "freq": Form({"group": "group"}, "term", "per_million", "rate", "per million tokens", freq=("freq",)),
    "keyness": Form(
        {"target": "target", "reference": "reference"},
        "term",
        "log_ratio",
        "log ratio",
        _LOG2,
        low="log_ratio_low",
        high="log_ratio_high",
        p="p_adjusted",
        freq=("freq_target", "freq_reference"),
    ),
    "logodds": Form(
        {"target": "target", "against": "reference"},
        "term",
        "log_odds",
        "log odds",
        "natural logarithm",
        freq=("freq", "freq_against"),
    ),
    "contrast": Form(
        {"group_a": "target", "group_b": "reference"},
        "value",
        "difference",
        "difference of means",
        "unit of the value",
        low="ci_low",
        high="ci_high",
        p="p_adjusted",
        rank="",
    ),
    "collocates": Form(
        {"group": "group", "node": "node"}, "collocate", "log_dice", "log Dice", _LOG2, freq=("together",), rank=""
    ),
    "contexts": Form(
        {"group": "group", "node": "node", "target": "target", "reference": "reference"},
        "collocate",
        "log_ratio",
        "log ratio",
        _LOG2,
        low="log_ratio_low",
        high="log_ratio_high",
        p="p_adjusted",
        freq=("together_target", "together_reference"),
    ),
}
"""Table -> its form."""


@dataclass(frozen=True)
class SettingRows:
    """The rows of one combination.

    Attributes
    ----------
    form : Form
    blocks : tuple of str
        The columns that name a list or comparison: some of `BLOCKS`.
    lists : sequence of tuple
        What the lists are called, by these columns.
    list_of : ndarray
        (rows,) int32: the number of each row's list.
    terms : ndarray of str
        (rows,) what the rows are of.
    effect, low, high, p : ndarray
        (rows,) float, NaN where there is none.
    rank : ndarray
        (rows,) float, 1 for the first of each list.
    freq : ndarray
        (rows,) float occurrences, NaN where a row has none.
    passes : ndarray
        (rows,) bool: whose adjusted p is below a level; without tests, which are the first of their list.
    """

    form: Form
    blocks: tuple[str, ...]
    lists: Sequence[tuple[str, ...]]
    list_of: np.ndarray
    terms: np.ndarray
    effect: np.ndarray
    low: np.ndarray
    high: np.ndarray
    p: np.ndarray
    rank: np.ndarray
    freq: np.ndarray
    passes: np.ndarray

    @property
    def lean(self) -> "SettingRows":
        """The rows with what a grid needs, without intervals, p and occurrences."""
        nothing = np.zeros(0)
        rank = self.rank.astype(np.float32)
        return replace(self, rank=rank, low=nothing, high=nothing, p=nothing, freq=nothing)


def rows_of(result: Result, level: float, first: int) -> SettingRows:
    """The rows of a result in the common form.

    Parameters
    ----------
    result : Result
        Of one of the commands that can be varied.
    level : float
        A row passes where its adjusted p is below this.
    first : int
        Without tests, a row passes among the first so many of its list.

    Returns
    -------
    SettingRows
    """
    form, table = FORMS[result.command], result.table
    named = [name for name in form.blocks if name in table]
    number, firsts = (
        distinct_rows([table[name] for name in named])
        if named and len(table)
        else (np.zeros(len(table), dtype=np.int64), np.zeros(1, dtype=np.int64))
    )
    lists = (
        list(zip(*(map(str, table[name][firsts].tolist()) for name in named), strict=True))
        if named and len(table)
        else [()]
    )
    effect = _numbers(table, form.effect)
    low, high = _numbers(table, form.low), _numbers(table, form.high)
    if result.command == "logodds":
        error = _numbers(table, "std_error")
        low, high = effect - _UNSURE * error, effect + _UNSURE * error
    freq = np.sum([_numbers(table, name) for name in form.freq], axis=0) if form.freq else _numbers(table, "")
    # one object for each word, however many combinations have it
    terms = np.array([intern(str(term)) for term in table[form.term].tolist()], dtype=object)
    rank = _numbers(table, form.rank) if form.rank in table else _ranks(number, effect, form)
    p = _numbers(table, form.p)
    with np.errstate(invalid="ignore"):
        passes = p < level if form.p else rank <= first
    blocks = tuple(form.blocks[name] for name in named)
    return SettingRows(form, blocks, lists, number.astype(np.int32), terms, effect, low, high, p, rank, freq, passes)


def _numbers(table: Table, name: str) -> np.ndarray:
    if not name or name not in table:
        return np.full(len(table), np.nan)
    cells = table[name]
    found = np.array(cells.tolist() if cells.dtype == object else np.asarray(cells, dtype=float), dtype=float)
    found[is_missing(cells)] = np.nan
    return found


def _ranks(number: np.ndarray, effect: np.ndarray, form: Form) -> np.ndarray:
    """(rows,) the place of each within its list: as the table has them, or by the size of a difference."""
    if not len(effect):
        return effect
    keys = -np.nan_to_num(np.abs(effect), nan=-1.0) if form.term == "value" else np.arange(len(effect), dtype=float)
    order = np.lexsort((np.arange(len(effect)), keys, number))
    found = np.empty(len(effect))
    starts = np.searchsorted(number[order], np.arange(number.max() + 1))
    found[order] = np.arange(len(effect)) - starts[number[order]] + 1
    return found
