"""The table of a comparison: a row for each listed term, its columns from the counts to the note."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from millstone.analyses.base.groups.held_equal import CONDITIONAL, disagreement
from millstone.analyses.base.groups.notes import BY_TOKENS_ONLY
from millstone.analyses.base.groups.pairs import ALPHA
from millstone.analyses.keyness.comparing.comparison import ComparisonRun, names_of
from millstone.analyses.keyness.comparing.notes import notes_of
from millstone.analyses.keyness.comparing.selection import Selection
from millstone.analyses.keyness.measures import MEASURES, measures_named
from millstone.core.corpus.documents import as_objects
from millstone.core.corpus.group_names import REST
from millstone.core.evidence.document_tests import LEAST_FOR_WELCH
from millstone.core.statistics.ranks import competition_ranks
from millstone.core.tables.table import ColumnCells, Table, WholeNumbers, spread_out
from millstone.core.terms.counts import Counts, Part


def keyness_table(one: ComparisonRun, selection: Selection) -> Table:
    """The rows of a comparison, in the order of its selection."""
    found: dict[str, Any] = {
        "target": one.comparison.target,
        "reference": one.comparison.reference,
        "rank": selection.rank,
    }
    return Table(found | _columns(one, selection.terms))


def _columns(one: ComparisonRun, terms: np.ndarray) -> dict[str, ColumnCells]:
    """All columns from ``term`` on, (terms,) each; `terms` are indices into `wanted`."""
    sides, target, reference = one.sides, one.target, one.reference
    rows, wanted = one.row_of[terms], one.wanted[terms]
    # intervals over units take time, and are made for the listed terms only; without units many terms are one row
    listed, of_listed = (sides, rows) if one.sums is None else (sides.at(rows), slice(None))
    names = np.array(["", one.comparison.target, one.comparison.reference], dtype=object)
    columns: dict[str, ColumnCells] = {
        "term": names_of(target, wanted),
        "freq_target": sides.a[rows],
        "freq_reference": sides.b[rows],
        "rank_target": _list_ranks(target, sides.a, sides.of_documents)[rows],
        "rank_reference": _list_ranks(reference, sides.b, sides.of_documents)[rows],
        "per_million_target": _rates(one, sides.a, sides.n1)[rows],
        "per_million_reference": _rates(one, sides.b, sides.n2)[rows],
        "docs_percent_target": 100 * target.docs[wanted] / target.documents,
        "docs_percent_reference": 100 * reference.docs[wanted] / reference.documents,
        "higher_in": names[sides.difference[rows].astype(int)],
    }
    columns |= {name: MEASURES[name].of(listed)[of_listed] for name in _measures(one)}
    if one.settings.shared and one.background is None:
        columns |= {"shared_low": one.narrow[0][rows], "shared_high": one.narrow[1][rows]}
    if one.background is not None:
        columns["per_million_background"] = one.background_rates[terms]
    if one.settings.resample:
        columns |= {name: values[terms] for name, values in one.resampled().items()}
    if one.adjusting is not None:
        columns |= _conditional(one, terms)
    if one.interval == "resample":
        columns |= {f"log_ratio_{end}": columns[f"resample_{end}"] for end in ("low", "high")}
    columns["note"] = notes_of(
        one.comparison,
        target,
        reference,
        wanted,
        sides.difference[rows],
        {
            BY_TOKENS_ONLY: one.by_tokens_only[rows],
            f"fewer than {LEAST_FOR_WELCH} units with it on a side: no p": one.too_rare[terms],
            **_disagreeing(one, terms),
        },
        in_one=not sides.of_documents,
    )
    return columns


def _conditional(one: ComparisonRun, terms: np.ndarray) -> dict[str, ColumnCells]:
    """The columns of ratios with fields held equal; empty where a side has one sampling unit."""
    found, empty = one.conditional, np.full(len(terms), np.nan)
    if found is None:
        return {column.name: empty for column in CONDITIONAL}
    return {
        "log_ratio_conditional": found.log_ratio[terms],
        "log_ratio_conditional_low": found.low[terms],
        "log_ratio_conditional_high": found.high[terms],
        "p_conditional_adjusted": one.p_conditional_adjusted[terms],
        "p_conditional": found.p[terms],
    }


def _disagreeing(one: ComparisonRun, terms: np.ndarray) -> dict[str, np.ndarray]:
    """Notes where the ratio with fields held equal is another, of terms that pass with or without."""
    if one.conditional is None or one.adjusting is None:
        return {}
    alpha, rows = one.settings.alpha or ALPHA, one.row_of[terms]
    passes = (one.sides.p_adjusted[rows] < alpha) | (one.p_conditional_adjusted[terms] < alpha)
    ratio = MEASURES["log_ratio"].of(one.sides.at(rows))
    return disagreement(ratio, one.conditional.log_ratio[terms], passes, one.adjusting.named)


def _rates(one: ComparisonRun, counted: np.ndarray, size: int) -> np.ndarray:
    return np.full(len(counted), np.nan) if one.sides.of_documents else 1e6 * counted / size


def _measures(one: ComparisonRun) -> list[str]:
    """The measures that have a column."""
    statistic = one.test if one.test in ("g2", "chi2") else one.sides.statistic
    first = ["log_ratio", "log_ratio_low", "log_ratio_high", statistic]
    first += ["design_effect", "ll_documents", "p_adjusted"]
    further = [name for asked in one.settings.measures for name in measures_named(asked)]
    further += [one.settings.rank_by] if one.settings.rank_by else []
    return list(dict.fromkeys([*first, *further]))


def _list_ranks(part: Part, counted: np.ndarray, of_documents: bool) -> WholeNumbers:
    """(counts,) the rank in the list of all terms, empty for a term that is not in it."""
    every = part.docs.astype(np.int64) if of_documents else part.freq
    return WholeNumbers(competition_ranks(counted, every), counted == 0)


_AT_ONCE = 1 << 16
# of groups, which have them once
_LEFT_OUT = (
    *("target", "reference", "rank_target", "rank_reference"),
    *(f"{name}_{side}" for name in ("freq", "per_million", "docs_percent") for side in ("target", "reference")),
)


def comparisons_beside(table: Table, counts: Counts) -> Table:
    """One row per term, the comparisons side by side.

    Parameters
    ----------
    table : Table
        From `keyness`.
    counts : Counts
        Those that were compared.

    Returns
    -------
    Table
        ``term``, then ``freq_GROUP, per_million_GROUP, docs_percent_GROUP`` of each group, then the columns of each
        comparison, ``_TARGET`` after each name, or ``_TARGET_REFERENCE`` where references differ; by the best rank in
        any of them. What a comparison does not have is empty.
    """
    alone = len(set(table["reference"].tolist())) < 2
    place: dict[str, int] = {}
    rows_of = {
        key: (own, np.array([place.setdefault(term, len(place)) for term in own["term"].tolist()], dtype=np.int64))
        for key, own in table.by(["target", "reference"])
    }
    best = np.full(len(place), np.inf)
    terms = as_objects(list(place))
    columns: dict[str, Any] = {"term": terms, **_of_groups(counts, place)}
    for (target, reference), (own, rows) in rows_of.items():
        suffix = target if alone else f"{target}_{reference}"
        np.minimum.at(best, rows, np.asarray(own["rank"], dtype=float))
        if reference != REST and reference not in counts.groups:
            # a list
            for name in ("freq", "per_million"):
                columns[f"{name}_{reference}"] = spread_out(own[f"{name}_reference"], rows, len(place))
        for name, cells in own.without("term", *_LEFT_OUT).items():
            columns[f"{name}_{suffix}"] = spread_out(cells, rows, len(place))
    return Table(columns).at(np.argsort(best, kind="stable"))


def _of_groups(counts: Counts, place: Mapping[str, int]) -> dict[str, ColumnCells]:
    """The frequency of some terms in each group, with its rate and its share of documents."""
    number = np.zeros(len(place), dtype=np.int64)
    for first in range(0, len(counts.terms), _AT_ONCE):
        # n-grams are spelled out only for this
        for at, term in enumerate(counts.terms[first : first + _AT_ONCE].tolist(), first):
            if term in place:
                number[place[term]] = at
    found: dict[str, ColumnCells] = {}
    for group in counts.groups:
        part = counts.part((group,))
        freq = part.freq[number]
        found[f"freq_{group}"] = freq
        found[f"per_million_{group}"] = 1e6 * freq / max(part.tokens, 1)
        found[f"docs_percent_{group}"] = 100 * part.docs[number] / (part.documents or np.nan)
    return found


def key_terms(table: Table, groups: tuple[str, ...], alpha: float) -> Mapping[str, list[str]]:
    """The terms of each group that are more frequent in it, adjusted p below `alpha`, strongest first."""
    sure = table.at(table["p_adjusted"] < alpha)
    found = {group: list(dict.fromkeys(sure["term"][sure["higher_in"] == group].tolist())) for group in groups}
    return {group: terms for group, terms in found.items() if terms}
