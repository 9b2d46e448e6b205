"""Trends: log-linear rates over ordered periods, each period one observation."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy import special

from millstone.analyses.base.groups.notes import TakeNote
from millstone.analyses.trend.schema import schema
from millstone.analyses.trend.settings import TrendSettings
from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed, numbered
from millstone.core.corpus.corpus import group_codes
from millstone.core.corpus.documents import as_objects
from millstone.core.corpus.periods import Periods
from millstone.core.evidence.log_linear import LogLinear, kendall_tau, lag_correlation, log_linear
from millstone.core.matrix.cells import SparseMatrix, batches
from millstone.core.matrix.totals import column_sums, document_frequency
from millstone.core.statistics.significance import adjusted
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts

LEAST_PERIODS = 5
ALPHA = 0.05
_SUMS, _CELLS = 1 << 24, 1 << 21
_BLOCKS = "\u2581\u2582\u2583\u2584\u2585\u2586\u2587\u2588"
_WIDEST = 24


@dataclass(frozen=True)
class GroupPeriods:
    """The periods of one group that have tokens.

    Attributes
    ----------
    group : str
    labels : tuple of str
        (P,)
    x : ndarray
        (P,) the mean of the field over the tokens.
    sizes : ndarray
        (P,) int64 tokens.
    documents : ndarray
        (P,) int64.
    rows : ndarray
        The numbers of the group's documents with a value.
    period : ndarray
        (rows,) the period of each.
    """

    group: str
    labels: tuple[str, ...]
    x: np.ndarray
    sizes: np.ndarray
    documents: np.ndarray
    rows: np.ndarray
    period: np.ndarray

    def counts(self, matrix: SparseMatrix, wanted: np.ndarray) -> np.ndarray:
        """(P, wanted) int64 occurrences of some terms, from the (rows, terms) counts of the documents."""
        # the last place is that of all other terms
        width = len(wanted) + 1
        place = np.full(matrix.shape[1], width - 1, dtype=np.int64)
        place[wanted] = np.arange(len(wanted))
        first = self.period * width
        found = np.zeros(len(self.labels) * width)
        for cells, row in batches(matrix):
            at = first[row] + place[matrix.indices[cells]]
            # whole numbers far below 2^53, so that these sums are exact
            found += np.bincount(at, weights=matrix.data[cells], minlength=len(found))
        return found.reshape(len(self.labels), width)[:, :-1].astype(np.int64)


def group_periods(counts: Counts, periods: Periods) -> list[GroupPeriods]:
    """The periods of each group.

    Raises
    ------
    DataError
        Where a group has fewer than five periods with tokens.
    """
    codes = group_codes(counts.documents, counts.groups)
    found = []
    for number, group in enumerate(counts.groups):
        rows = np.flatnonzero((codes == number) & (periods.of >= 0) & (counts.base > 0))
        present, period = np.unique(periods.of[rows], return_inverse=True)
        sizes = np.bincount(period, weights=counts.base[rows], minlength=len(present))
        if len(present) < LEAST_PERIODS:
            labels = [periods.labels[one] for one in present.tolist()]
            raise DataError(
                f"a trend needs {LEAST_PERIODS} periods, and {group} has {len(present)}: {listed(labels)}",
                "take shorter periods with --period, or compare the periods as groups: keyness --group FIELD",
            )
        x = np.bincount(period, weights=counts.base[rows] * periods.x[rows], minlength=len(present)) / sizes
        labels_of = tuple(periods.labels[one] for one in present.tolist())
        documents = np.bincount(period, minlength=len(present))
        found.append(GroupPeriods(group, labels_of, x, sizes.astype(np.int64), documents, rows, period))
    return found


def trends(
    counts: Counts,
    periods: Periods,
    settings: TrendSettings | None = None,
    note: TakeNote = lambda text: None,
    with_courses: bool = True,
) -> Table:
    """The trend of each term in each group.

    Parameters
    ----------
    counts : Counts
        Of terms, or of categories.
    periods : Periods
        Of the documents.
    settings : TrendSettings, optional
    note : callable
        Receives how many terms pass.
    with_courses : bool
        Whether the rates of periods are drawn in block characters.

    Returns
    -------
    Table
        ``group, rank, term, trend, change_percent, change_low, change_high, course, p_adjusted, freq, docs, periods,
        first_per_million, last_per_million, tau, design_effect, p, loudest, note``; by p within a group.

    Raises
    ------
    DataError
        For fewer than five periods.
    """
    settings = settings or TrendSettings()
    tables = []
    for one in group_periods(counts, periods):
        matrix = counts.matrix if len(one.rows) == counts.matrix.shape[0] else counts.matrix.rows(one.rows)
        wanted = np.flatnonzero(column_sums(matrix) >= settings.min_freq)
        if not len(wanted):
            continue
        table = Table.joined(
            [_measured(one, y, counts, here, with_courses) for here, y in _some_counts(one, matrix, wanted)]
        )
        table = table.with_columns({"docs": document_frequency(matrix)[wanted]})
        passed = adjusted(np.asarray(table["p"], dtype=float), settings.adjust)
        table = _ordered(one, table.with_columns({"p_adjusted": passed}))
        note(_passing(one, table, len(counts.groups) > 1))
        if settings.direction != "both":
            table = table.at(np.flatnonzero(table["trend"] == settings.direction))
        tables.append(table)
    return Table.joined(tables) if tables else Table({})


def _some_counts(
    one: GroupPeriods, matrix: SparseMatrix, wanted: np.ndarray
) -> Iterator[tuple[np.ndarray, np.ndarray]]:
    """The numbers of some terms at a time, with their (P, terms) occurrences; the matrix is gone through seldom."""
    periods = len(one.labels)
    many, few = max(1, _SUMS // periods), max(1, _CELLS // periods)
    for first in range(0, len(wanted), many):
        here = wanted[first : first + many]
        sums = one.counts(matrix, here)
        for start in range(0, len(here), few):
            yield here[start : start + few], sums[:, start : start + few]


def _measured(one: GroupPeriods, y: np.ndarray, counts: Counts, which: np.ndarray, with_courses: bool) -> Table:
    """The columns of some terms by their numbers, with p and the p without the loudest period."""
    terms = np.asarray(counts.terms[which], dtype=object)
    fit = log_linear(y, one.sizes, one.x)
    periods, total = len(one.labels), y.sum(axis=0)
    freedom = periods - 2
    half = special.stdtrit(freedom, 0.975) * fit.error
    p = _p(fit, freedom)
    with np.errstate(invalid="ignore", divide="ignore"):
        share = y / total - (one.sizes / one.sizes.sum())[:, None]
        rate = 1e6 * fit.mean / one.sizes[:, None]
    loudest = np.argmax(np.nan_to_num(share, nan=-np.inf), axis=0)
    without = np.full(len(terms), np.nan)
    # only terms that pass may turn out not to without their loudest period
    passing = p < ALPHA
    for left_out in np.unique(loudest[passing]).tolist():
        mine, rest = passing & (loudest == left_out), np.arange(periods) != left_out
        refit = log_linear(y[rest][:, mine], one.sizes[rest], one.x[rest])
        without[mine] = _p(refit, freedom - 1)
    lag = lag_correlation(y, fit.mean)
    return Table(
        {
            "term": terms,
            "trend": np.where(fit.beta > 0, "rises", np.where(fit.beta < 0, "falls", "")).astype(object),
            "change_percent": 100 * np.expm1(fit.beta),
            "change_low": 100 * np.expm1(fit.beta - half),
            "change_high": 100 * np.expm1(fit.beta + half),
            **({"course": _courses(y / one.sizes[:, None])} if with_courses else {}),
            "freq": total,
            "periods": (y > 0).sum(axis=0),
            "first_per_million": rate[0],
            "last_per_million": rate[-1],
            "tau": kendall_tau(y, one.sizes, one.x),
            "design_effect": fit.dispersion,
            "p": p,
            "loudest": as_objects(list(one.labels))[loudest],
            "without": without,
            "alike": np.where(lag > 2 / np.sqrt(periods), lag, np.nan),
        }
    )


def _p(fit: LogLinear, freedom: int) -> np.ndarray:
    with np.errstate(invalid="ignore", divide="ignore"):
        found: np.ndarray = 2 * special.stdtr(freedom, -np.abs(fit.t))
    return found


def _ordered(one: GroupPeriods, table: Table) -> Table:
    """The rows by p, those without one last, with their ranks and notes."""
    p = np.asarray(table["p"], dtype=float)
    order = np.lexsort((-np.asarray(table["freq"]), np.where(np.isnan(p), 2.0, p)))
    table = table.at(order)
    named = {"group": as_objects([one.group] * len(table)), "rank": np.arange(1, len(table) + 1)}
    table = table.with_columns({**named, "note": _notes(table)})
    return table.only([name for name in schema().names if name in table])


def _notes(table: Table) -> np.ndarray:
    """The notes of each term; most have none."""
    p, passed, without, alike = (
        np.asarray(table[name], dtype=float) for name in ("p", "p_adjusted", "without", "alike")
    )
    notes: dict[int, list[str]] = {}
    for row in np.flatnonzero(np.isnan(p)).tolist():
        notes.setdefault(row, []).append("all in the first or the last period: no rate of change")
    for row in np.flatnonzero((passed < ALPHA) & ~(without < ALPHA)).tolist():
        notes.setdefault(row, []).append(f"without {table['loudest'][row]} it does not pass")
    for row in np.flatnonzero(~np.isnan(alike)).tolist():
        said = f"rates of neighbouring periods are alike ({alike[row]:.1f}): the interval is too narrow"
        notes.setdefault(row, []).append(said)
    found = np.full(len(table), "", dtype=object)
    for row, several in notes.items():
        found[row] = "; ".join(several)
    return found


def _passing(one: GroupPeriods, table: Table, several: bool) -> str:
    sure = np.asarray(table["p_adjusted"], dtype=float) < ALPHA
    rises = int((sure & (table["trend"] == "rises")).sum())
    loud = int(np.array([str(note).startswith("without") for note in table["note"]], dtype=bool).sum())
    where = f"{one.group}: " if several else ""
    number = int(sure.sum())
    verb = "passes" if number < 2 else "pass"
    passing = f"{number or 'none'} of {len(table):,} {verb} (p adjusted < {ALPHA:g})"
    ways = [(rises, "rises", "rise"), (number - rises, "falls", "fall")]
    directions = [f"{count:,} {one if count == 1 else more}" for count, one, more in ways if count]
    passing += f", {listed(directions)}" if directions else ""
    further = f"; {loud:,} of them only with their loudest period" if loud else ""
    return f"{where}{numbered(len(one.labels), 'period')} ({one.labels[0]} to {one.labels[-1]}): {passing}{further}"


def _courses(rates: np.ndarray) -> np.ndarray:
    """(terms,) the rates (P, terms) in block characters; many periods are put together."""
    if len(rates) > _WIDEST:
        rates = np.array([part.mean(axis=0) for part in np.array_split(rates, _WIDEST)])
    most = np.maximum(rates.max(axis=0), np.finfo(float).tiny)
    blocks = np.clip(np.ceil(len(_BLOCKS) * rates / most) - 1, 0, len(_BLOCKS) - 1).astype(np.int64)
    return as_objects(["".join(row) for row in np.array(list(_BLOCKS))[blocks.T].tolist()])


def courses(counts: Counts, one: GroupPeriods, terms: Sequence[str]) -> Table:
    """The rates of some terms of a group in each period, with those of the fit.

    Parameters
    ----------
    counts : Counts
    one : GroupPeriods
    terms : sequence of str
        Some of the terms.

    Returns
    -------
    Table
        ``group, term, period, x, freq, docs, tokens, per_million, rate_low, rate_high, fitted, fitted_low,
        fitted_high``. Intervals allow for the dispersion around the fit.
    """
    place = {term: at for at, term in enumerate(np.asarray(counts.terms[:], dtype=object).tolist())}
    y = one.counts(counts.matrix.rows(one.rows), np.array([place[term] for term in terms], dtype=np.int64))
    fit = log_linear(y, one.sizes, one.x)
    periods, freedom = len(one.labels), len(one.labels) - 2
    scale, size = fit.dispersion, one.sizes[:, None]
    with np.errstate(invalid="ignore", divide="ignore"):
        low = np.where(y > 0, special.gammaincinv(y / scale, 0.025) * scale, 0.0)
        high = special.gammaincinv(y / scale + 1, 0.975) * scale
        middle = (one.x @ fit.mean) / fit.mean.sum(axis=0)
        level = scale / fit.mean.sum(axis=0)
        spread = np.sqrt(level + fit.error**2 * (one.x[:, None] - middle) ** 2) * special.stdtrit(freedom, 0.975)
    columns: dict[str, Any] = {
        "group": one.group,
        "term": np.repeat(as_objects(list(terms)), periods),
        "period": np.tile(as_objects(list(one.labels)), len(terms)),
        "x": np.tile(one.x, len(terms)),
        "freq": y.T.ravel(),
        "docs": np.tile(one.documents, len(terms)),
        "tokens": np.tile(one.sizes, len(terms)),
    }
    for name, values in (
        ("per_million", y),
        ("rate_low", low),
        ("rate_high", high),
        ("fitted", fit.mean),
        ("fitted_low", fit.mean * np.exp(-spread)),
        ("fitted_high", fit.mean * np.exp(spread)),
    ):
        columns[name] = (1e6 * values / size).T.ravel()
    return Table(columns)
