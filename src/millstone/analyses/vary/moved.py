"""Two combinations of settings: which rows moved, and why."""

from collections.abc import Iterator, Sequence

import numpy as np

from millstone.analyses.vary.across import Grid
from millstone.analyses.vary.matching import per_row
from millstone.analyses.vary.reasons import Reasons
from millstone.core.base.light_dataclass import frozen
from millstone.core.corpus.group_names import REST
from millstone.core.statistics.ranks import average_ranks
from millstone.core.tables.table import Table, WholeNumbers

_SAME = 1e-9


@frozen
class Agreement:
    """How much two lists have in common.

    Attributes
    ----------
    name : str
        The list or comparison in words; empty where there is one.
    rows : int
        Rows that both have.
    rho : float
        Spearman's correlation of their ranks among these; NaN for fewer than three.
    shared : float
        How many of the first rows of the one, 0 to 1, are among the first of the other.
    first : int
        How many rows are the first ones: no more than the shorter list has.
    """

    name: str
    rows: int
    rho: float
    shared: float
    first: int


def moved(grid: Grid, reasons: Reasons) -> Table:
    """The rows that moved between two combinations, and why.

    Parameters
    ----------
    grid : Grid
        Of two combinations.
    reasons : Reasons

    Returns
    -------
    Table
        The blocks, then ``term, rank_1, rank_2, freq_1, freq_2, effect_1, effect_2, p_1, p_2, change, why``. Rows
        that only the second has enter, those that only the first has leave, others go up or down in rank, of
        equal ranks in effect. Rows that changed themselves come first, then those that only others moved; of
        these the largest change first, measured by the ratio of the ranks.
    """
    columns = {
        name: per_row(grid.matched, [getattr(one, name) for one in grid.rows]) for name in ("rank", "freq", "p")
    }
    rank, freq = columns["rank"], columns["freq"]
    effect, is_there = grid.effect, ~np.isnan(columns["rank"])
    change = _changes(rank, effect)
    rows = np.flatnonzero(change != "")
    why = [_why(row, change[row], grid, reasons, freq, effect) for row in rows.tolist()]
    least = np.where(is_there, rank, _last(grid)[None, :] + 1)
    far = np.abs(np.log(least[rows, 0]) - np.log(least[rows, 1]))
    by_others = np.array([one.startswith("others") for one in why], dtype=bool)
    order = np.lexsort((rows, -far, by_others, grid.list_numbers[rows]))
    chosen = rows[order]
    found: dict[str, object] = {
        name: np.array([grid.matched.keys[row][place] for row in chosen], dtype=object)
        for place, name in enumerate((*grid.matched.blocks, "term"))
    }
    for name, values in (("rank", rank), ("freq", freq), ("effect", effect), ("p", columns["p"])):
        for side in (0, 1):
            own = values[chosen, side]
            found[f"{name}_{side + 1}"] = WholeNumbers.of(own) if name in ("rank", "freq") else own
    found |= {"change": change[chosen], "why": np.array(why, dtype=object)[order]}
    table = Table(found)
    empty = [name for name in ("freq", "p") if np.isnan(columns[name]).all()]
    return table.without(*(f"{name}_{side}" for name in empty for side in (1, 2)))


def _changes(rank: np.ndarray, effect: np.ndarray) -> np.ndarray:
    """(rows,) how each row moved; empty where it did not."""
    one, other = rank.T
    with np.errstate(invalid="ignore"):
        further = effect[:, 1] - effect[:, 0]
        is_other = np.abs(further) > _SAME * np.maximum(np.abs(effect).max(axis=1), 1e-300)
    found = np.full(len(rank), "", dtype=object)
    found[is_other & (further > 0)], found[is_other & (further < 0)] = "up", "down"
    with np.errstate(invalid="ignore"):
        found[other < one], found[other > one] = "up", "down"
    found[np.isnan(one) & ~np.isnan(other)], found[~np.isnan(one) & np.isnan(other)] = "enters", "leaves"
    return found


def _why(row: int, change: str, grid: Grid, reasons: Reasons, freq: np.ndarray, effect: np.ndarray) -> str:
    key = grid.matched.keys[row]
    groups = [
        name
        for block, name in zip(grid.matched.blocks, key, strict=False)
        if block in ("group", "target", "reference") and name != REST
    ]
    # the rest is all other groups
    groups = [] if REST in key[:-1] else groups
    if change == "enters":
        return reasons.of_entering(key[-1], groups)
    if change == "leaves":
        return reasons.of_leaving(key[-1], groups)
    return reasons.of_moving(key[-1], (freq[row, 0], freq[row, 1]), (effect[row, 0], effect[row, 1]), groups)


def _last(grid: Grid) -> np.ndarray:
    """(combinations,) the last rank of each."""
    return np.array([np.nanmax(one.rank) if len(one.rank) else 0 for one in grid.rows])


def agreement(grid: Grid, first: int) -> Iterator[Agreement]:
    """How much the lists of two combinations have in common, one after the other.

    Parameters
    ----------
    grid : Grid
        Of two combinations.
    first : int
        How many rows from the beginning of each list are held against each other.

    Yields
    ------
    Agreement
    """
    rank, lists = per_row(grid.matched, [one.rank for one in grid.rows]), grid.list_numbers
    for number in range(int(lists.max()) + 1 if len(lists) else 0):
        own = rank[lists == number]
        both = own[~np.isnan(own).any(axis=1)]
        rho = _correlation(average_ranks(both[:, 0]), average_ranks(both[:, 1]))
        most = min(first, *(int((~np.isnan(own[:, side])).sum()) for side in (0, 1)))
        sets = [_first(own[:, side], most) for side in (0, 1)]
        shared = len(sets[0] & sets[1]) / most if most else float("nan")
        key = grid.matched.keys[int(np.flatnonzero(lists == number)[0])][:-1]
        yield Agreement(" and ".join(key) if lists.max() else "", len(both), rho, shared, most)


def _correlation(one: np.ndarray, other: np.ndarray) -> float:
    """Pearson's correlation; NaN for fewer than three values, or where one side is all equal."""
    if len(one) < 3 or not one.std() or not other.std():
        return float("nan")
    return float(np.corrcoef(one, other)[0, 1])


def _first(rank: np.ndarray, most: int) -> set[int]:
    order = np.argsort(np.where(np.isnan(rank), np.inf, rank), kind="stable")
    return set(order[:most].tolist())


def of_lists(found: Sequence[Agreement]) -> list[str]:
    """The agreement of lists in words, a line each.

    Parameters
    ----------
    found : sequence of Agreement

    Returns
    -------
    list of str
    """
    lines = []
    for one in found:
        name = f"{one.name}: " if one.name else ""
        rho = "" if np.isnan(one.rho) else f"; Spearman's rho of the ranks of {one.rows:,} rows in both {one.rho:.2f}"
        lines.append(f"{name}{100 * one.shared:.0f} % of the first {one.first:,} rows in common{rho}")
    return lines
