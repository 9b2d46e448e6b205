"""How alike two frequency lists are, beside lists of random halves of the same texts."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from millstone.analyses.base.groups.notes import TakeNote
from millstone.analyses.base.groups.pairs import sampling_of, sides_of
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.core.base.arrays import unique_inverse
from millstone.core.base.light_dataclass import frozen
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.statistics.ranks import average_ranks
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts, Part

DRAWS = 20
"""How often all texts are put into two halves at random."""
_NOTED = 4


@frozen
class Likeness:
    """How alike two lists are.

    Attributes
    ----------
    rho : float
        Spearman's correlation of the ranks of the commonest terms of both together, -1 to 1.
    chi2_by_df : float
        Chi-squared of the occurrences of these terms on the two sides by its degrees of freedom; about 1 where
        tokens fall on the sides by chance.
    shared_percent : float
        How many of the commonest terms of the one are among those of the other.
    """

    rho: float
    chi2_by_df: float
    shared_percent: float


def likeness(a: np.ndarray, b: np.ndarray, sizes: tuple[int, int], terms: int) -> Likeness:
    """How alike two frequency lists are.

    Parameters
    ----------
    a, b : ndarray
        (terms,) occurrences on each side; of equal ones the first is the commoner.
    sizes : tuple of int
        All tokens of each side.
    terms : int
        How many of the commonest are compared.

    Returns
    -------
    Likeness
        NaN where a side is empty, or fewer than two terms are compared.

    References
    ----------
    Kilgarriff, A. (2001). Comparing corpora. Spearman, C. (1904). The proof and measurement of association between
    two things.
    """
    common = np.argsort(-(a + b), kind="stable")[:terms]
    common = common[(a + b)[common] > 0]
    one, other = a[common].astype(float), b[common].astype(float)
    if len(common) < 2 or not one.any() or not other.any():
        return Likeness(np.nan, np.nan, np.nan)
    each = np.array([one, other])
    expected = np.array(sizes)[:, None] * each.sum(axis=0) / sum(sizes)
    chi2 = float(((each - expected) ** 2 / expected).sum())
    varies = np.ptp(one) > 0 and np.ptp(other) > 0
    # the last digits are what rounding leaves
    rho = round(float(np.corrcoef(average_ranks(one), average_ranks(other))[0, 1]), 12) if varies else np.nan
    top = [set(np.argsort(-side, kind="stable")[: min(terms, int((side > 0).sum()))].tolist()) for side in (a, b)]
    shared = 100 * len(top[0] & top[1]) / max(min(map(len, top)), 1)
    return Likeness(rho, chi2 / (len(common) - 1), shared)


def overlap(
    counts: Counts,
    settings: KeynessSettings | None = None,
    listed: Counts | None = None,
    note: TakeNote = lambda text: None,
) -> Table:
    """How alike the frequency lists of the sides of each comparison are.

    Parameters
    ----------
    counts : Counts
    settings : KeynessSettings, optional
        ``against`` and ``overlap_terms``.
    listed : Counts, optional
        A frequency list under the same terms, against which every group is held.
    note : callable
        Receives the figures of the first comparisons.

    Returns
    -------
    Table
        ``target, reference, terms, rho, rho_halves, chi2_by_df, chi2_by_df_halves, shared_percent,
        shared_percent_halves``. Those of halves are means over 20 draws in which the sampling units of both sides
        are put on two sides of about the same sizes at random; NaN for lists and for fewer than two units on a side.
    """
    settings = settings or KeynessSettings()
    units = sampling_of(counts, listed, settings)
    rows: list[dict[str, Any]] = []
    for comparison, target, reference in sides_of(counts, settings.against, listed):
        found = likeness(target.freq, reference.freq, (target.tokens, reference.tokens), settings.overlap_terms)
        halves = _of_halves(target, reference, units, settings)
        compared = min(int(((target.freq + reference.freq) > 0).sum()), settings.overlap_terms)
        rows.append(
            {
                "target": comparison.target,
                "reference": comparison.reference,
                "terms": compared,
                "rho": found.rho,
                "rho_halves": halves.rho,
                "chi2_by_df": found.chi2_by_df,
                "chi2_by_df_halves": halves.chi2_by_df,
                "shared_percent": found.shared_percent,
                "shared_percent_halves": halves.shared_percent,
            }
        )
    for row in rows[:_NOTED]:
        note(_told(row))
    return Table({name: np.array([row[name] for row in rows], dtype=_kind(rows, name)) for name in rows[0]})


def _kind(rows: Sequence[dict[str, Any]], name: str) -> type:
    return object if isinstance(rows[0][name], str) else type(rows[0][name])


def _told(row: dict[str, Any]) -> str:
    parts = [
        f"{what} {row[name]:,.{digits}f}{unit}"
        + ("" if np.isnan(row[f"{name}_halves"]) else f" ({row[f'{name}_halves']:,.{digits}f}{unit})")
        for what, name, digits, unit in (
            ("rank correlation", "rho", 2, ""),
            ("chi-squared by df", "chi2_by_df", 1, ""),
            ("shared", "shared_percent", 0, " %"),
        )
    ]
    both = f"{row['target']} and {row['reference']}, their {row['terms']:,} commonest terms"
    halves = "" if np.isnan(row["rho_halves"]) else "; in brackets, random halves of the same texts"
    return f"{both}: {', '.join(parts)}{halves}"


def _of_halves(target: Part, reference: Part, sampling: SamplingUnits | None, settings: KeynessSettings) -> Likeness:
    """The mean likeness of random halves of the units of both sides."""
    nothing = Likeness(np.nan, np.nan, np.nan)
    if sampling is None:
        return nothing
    parts = (target, reference)
    rows = np.concatenate([part.rows_with_tokens for part in parts])
    names, unit = unique_inverse(sampling.of[rows])
    if min(len(np.unique(sampling.of[part.rows_with_tokens])) for part in parts) < 2:
        return nothing
    base = np.concatenate([part.base for part in parts])
    size = np.bincount(unit, weights=base, minlength=len(names))
    every = SparseMatrix.stacked([part.matrix for part in parts])
    total = target.freq + reference.freq
    chance, found = np.random.default_rng(settings.seed), []
    for _ in range(DRAWS):
        order = chance.permutation(len(names))
        before = np.cumsum(size[order]) - size[order] / 2
        on_target = np.zeros(len(names), dtype=np.int64)
        on_target[order[before < target.tokens]] = 1
        one = every.transposed() @ on_target[unit]
        tokens = int(size[on_target > 0].sum())
        sizes = tokens, int(size.sum()) - tokens
        found.append(likeness(one, total - one, sizes, settings.overlap_terms))
    means = [
        float(np.mean([getattr(one, name) for one in found])) for name in ("rho", "chi2_by_df", "shared_percent")
    ]
    return Likeness(*means)
