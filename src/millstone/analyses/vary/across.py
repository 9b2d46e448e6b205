"""Rows over all combinations of settings: how often they pass, how far their effects go, on what that depends."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from millstone.analyses.vary.grid import Combination
from millstone.analyses.vary.matching import Matched, per_row
from millstone.analyses.vary.rows import SettingRows
from millstone.core.base.wording import numbered
from millstone.core.tables.table import ColumnCells, Table, WholeNumbers

MOST = 0.5
"""More than this share of the settings are most of them."""


@dataclass(frozen=True)
class Grid:
    """The rows of all combinations.

    Attributes
    ----------
    every : sequence of Combination
    rows : sequence of SettingRows
        Of each.
    matched : Matched
    effect : ndarray
        (rows, combinations) float, NaN where a combination does not have the row.
    passes : ndarray
        (rows, combinations) bool.
    """

    every: Sequence[Combination]
    rows: Sequence[SettingRows]
    matched: Matched
    effect: np.ndarray
    passes: np.ndarray

    @cached_property
    def named(self) -> list[dict[str, str]]:
        """Of each combination: term -> the name of its common row, where that is another word."""
        found = []
        for rows, at in zip(self.rows, self.matched.at, strict=True):
            pairs = zip(rows.terms.tolist(), at.tolist(), strict=True)
            found.append({term: name for term, row in pairs if (name := self.matched.keys[row][-1]) != term})
        return found

    @cached_property
    def has_list(self) -> np.ndarray:
        """(rows, combinations) bool: which combinations make the list or comparison that a row belongs to."""
        number = self.list_numbers
        there = np.zeros((int(number.max()) + 1 if len(number) else 0, len(self.every)), dtype=bool)
        for at, own in enumerate(self.matched.at):
            there[number[own], at] = True
        found: np.ndarray = there[number]
        return found

    @cached_property
    def list_numbers(self) -> np.ndarray:
        """(rows,) the number of the list or comparison of each row, in the order in which they come up."""
        known: dict[tuple[str, ...], int] = {}
        found = [known.setdefault(key[:-1], len(known)) for key in self.matched.keys]
        return np.array(found, dtype=np.int64)

    @property
    def is_tested(self) -> bool:
        """Whether rows have a p."""
        return bool(self.rows[0].form.p)

    @property
    def is_signed(self) -> bool:
        """Whether an effect may point either way."""
        return self.rows[0].form.is_signed


def grid_of(every: Sequence[Combination], rows: Sequence[SettingRows], matched: Matched) -> Grid:
    """Put the rows of all combinations side by side.

    Parameters
    ----------
    every : sequence of Combination
    rows : sequence of SettingRows
        Of each combination.
    matched : Matched

    Returns
    -------
    Grid
    """
    effect = per_row(matched, [one.effect for one in rows])
    passes = per_row(matched, [one.passes for one in rows]) == 1
    return Grid(every, rows, matched, effect, passes)


def median_effect(effect: np.ndarray) -> np.ndarray:
    """(rows,) the median over the combinations that have a row, from (rows, combinations); NaN where none has one.

    Parameters
    ----------
    effect : ndarray

    Returns
    -------
    ndarray
    """
    found = np.full(len(effect), np.nan)
    there = ~np.isnan(effect).all(axis=1)
    found[there] = np.nanmedian(effect[there], axis=1)
    return found


def share_passing(grid: Grid) -> np.ndarray:
    """(rows,) in which share of the combinations that have a row it passes, in the direction of its median effect.

    Parameters
    ----------
    grid : Grid

    Returns
    -------
    ndarray
    """
    return share_of(grid.effect, grid.passes, grid.is_signed)


def share_of(effect: np.ndarray, passes: np.ndarray, is_signed: bool) -> np.ndarray:
    """(rows,) the share of `share_passing`, from (rows, combinations) effects and which pass.

    Parameters
    ----------
    effect : ndarray
    passes : ndarray
    is_signed : bool
        An effect may point either way.

    Returns
    -------
    ndarray
    """
    same = _along(effect, passes, is_signed)
    found: np.ndarray = same.sum(axis=1) / np.maximum((~np.isnan(effect)).sum(axis=1), 1)
    return found


def _along(effect: np.ndarray, passes: np.ndarray, is_signed: bool) -> np.ndarray:
    """(rows, combinations) bool: where a row passes, in the direction of its median effect."""
    if not is_signed:
        return passes
    direction = np.sign(median_effect(effect))[:, None]
    found: np.ndarray = passes & (np.sign(effect) == direction)
    return found


def across(grid: Grid) -> Table:
    """Sum each row up over all combinations.

    Parameters
    ----------
    grid : Grid

    Returns
    -------
    Table
        The blocks, then ``term, settings, passes, median, lowest, highest, sign_changes, depends_on, depends_by``:
        in how many combinations there is such a row; in which share of these it passes; median, lowest and highest
        effect; in how many the effect points the other way than its median; the option whose values differ most in
        that share, and by how much. Rows that pass in most combinations come first, of equal ones those with a lower
        median rank.
    """
    effect, matched = grid.effect, grid.matched
    there = ~np.isnan(effect)
    median = median_effect(effect)
    share = share_passing(grid)
    with np.errstate(invalid="ignore"):
        low, high = np.fmin.reduce(effect, axis=1), np.fmax.reduce(effect, axis=1)
    columns = {name: _texts(key[place] for key in matched.keys) for place, name in enumerate(matched.blocks)}
    columns["term"] = _texts(key[-1] for key in matched.keys)
    columns |= {"settings": there.sum(axis=1), "passes": share, "median": median, "lowest": low, "highest": high}
    if grid.is_signed:
        turned = there & (np.sign(effect) * np.sign(median)[:, None] < 0)
        columns["sign_changes"] = turned.sum(axis=1)
    option, by = depends_on(grid)
    columns |= {"depends_on": option, "depends_by": by}
    table = Table(columns)
    rank = median_effect(per_row(matched, [one.rank for one in grid.rows]))
    return table.at(np.lexsort((rank, -there.sum(axis=1), -share * there.sum(axis=1), grid.list_numbers)))


def depends_on(grid: Grid) -> tuple[np.ndarray, np.ndarray]:
    """The option on which it depends most whether a row passes, and how far the shares of its values lie apart.

    A combination that makes the list, and does not have the row, counts as one in which it does not pass.

    Parameters
    ----------
    grid : Grid

    Returns
    -------
    option : ndarray of str
        (rows,) empty where the share is the same whatever the option.
    by : ndarray
        (rows,) the largest share less the smallest, 0 to 1; NaN without an option.
    """
    along = _along(grid.effect, grid.passes, grid.is_signed)
    options = list(grid.every[0].values)
    spread = np.zeros((len(along), len(options)))
    for place, name in enumerate(options):
        values = [one.values[name] for one in grid.every]
        shares = np.array([_mean_of(along, grid.has_list, [value == own for own in values]) for value in {*values}])
        spread[:, place] = np.fmax.reduce(shares, axis=0) - np.fmin.reduce(shares, axis=0)
    best = spread.argmax(axis=1)
    by = spread[np.arange(len(along)), best] if len(along) else np.zeros(0)
    names = np.array([*(name.replace("_", "-") for name in options), ""], dtype=object)
    return names[np.where(by > 0, best, len(options))], np.where(by > 0, by, np.nan)


def _mean_of(along: np.ndarray, has_list: np.ndarray, chosen: Sequence[bool]) -> np.ndarray:
    """(rows,) in which share of some combinations a row passes; NaN where none of them makes its list."""
    there = has_list[:, chosen]
    with np.errstate(invalid="ignore"):
        found: np.ndarray = (along[:, chosen] & there).sum(axis=1) / there.sum(axis=1)
    return found


def _texts(values: object) -> np.ndarray:
    every = list(values)  # type: ignore[call-overload]
    found = np.empty(len(every), dtype=object)
    found[:] = every
    return found


def told(grid: Grid) -> str:
    """How many of the rows that pass under the first combination pass under all, most and few of them, in words.

    Parameters
    ----------
    grid : Grid

    Returns
    -------
    str
    """
    along = _along(grid.effect, grid.passes, grid.is_signed)
    first = along[:, 0] if len(along) else np.zeros(0, dtype=bool)
    share = _mean_of(along[first], grid.has_list[first], [True] * len(grid.every))
    every, most = int((share == 1).sum()), int(((share < 1) & (share > MOST)).sum())
    few = len(share) - every - most
    verb = "pass" if grid.is_tested else "are among the first"
    return (
        f"{numbered(len(share), 'row')} {verb} under the first of {len(grid.every)} combinations; of these {every:,} "
        f"{verb} under all, {most:,} under most, {few:,} under half or fewer"
    )


def each_row(grid: Grid) -> Table:
    """Every row under every combination.

    Parameters
    ----------
    grid : Grid

    Returns
    -------
    Table
        The blocks, then ``term, combination``, a column for each option, ``effect, low, high, p_adjusted, passes,
        rank, freq``.
    """
    tables = []
    for number, (one, rows, at) in enumerate(zip(grid.every, grid.rows, grid.matched.at, strict=True)):
        keys = [grid.matched.keys[place] for place in at.tolist()]
        columns: dict[str, ColumnCells] = {
            name: _texts(key[place] for key in keys) for place, name in enumerate(grid.matched.blocks)
        }
        columns |= {"term": _texts(key[-1] for key in keys), "combination": np.full(len(keys), one.number)}
        columns |= {name: np.full(len(keys), value, dtype=object) for name, value in one.values.items()}
        columns |= {"effect": rows.effect, "low": rows.low, "high": rows.high, "p_adjusted": rows.p}
        columns |= {"passes": np.where(grid.passes[at, number], "yes", "no").astype(object)}
        columns |= {"rank": WholeNumbers.of(rows.rank), "freq": WholeNumbers.of(rows.freq)}
        tables.append(Table(columns))
    found = Table.joined(tables)
    missing = [name for name in ("low", "high", "p_adjusted") if np.isnan(np.asarray(found[name], float)).all()]
    return found.without(*missing)
