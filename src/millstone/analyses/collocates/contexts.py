"""The contexts of two nodes, or of one node in two groups, side by side: what is near the one more than the other."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from millstone.analyses.base.groups.notes import BY_TOKENS_ONLY, TakeNote
from millstone.analyses.base.groups.pairs import Comparison
from millstone.analyses.collocates.measures import MEASURES as ASSOCIATIONS
from millstone.analyses.collocates.measures import Cooccurrence
from millstone.analyses.collocates.near import Near
from millstone.analyses.collocates.schema import contexts as contexts_schema
from millstone.analyses.collocates.settings import CollocatesSettings
from millstone.analyses.keyness.comparing.comparison import ComparisonRun, names_of
from millstone.analyses.keyness.comparing.notes import notes_of
from millstone.analyses.keyness.comparing.selection import Selection, select
from millstone.analyses.keyness.comparing.summary import keyness_summary
from millstone.analyses.keyness.measures import MEASURES
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.core.corpus.corpus import Corpus
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.matches.matches import Matches, documents_of
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts, Part
from millstone.core.terms.term_map import TermMap

_EVIDENCE = ("log_ratio", "log_ratio_low", "log_ratio_high", "ll", "design_effect", "ll_documents", "p_adjusted", "p")


@dataclass(frozen=True)
class NearCounts:
    """The terms near a node in each document.

    Attributes
    ----------
    matrix : SparseMatrix
        (D, terms) int32, occurrences near the node.
    base : ndarray
        (D,) int64, all word tokens near it.
    places : ndarray
        (D,) int64, the places of the node.
    """

    matrix: SparseMatrix
    base: np.ndarray
    places: np.ndarray

    @classmethod
    def of(cls, corpus: Corpus, term_map: TermMap, places: Matches, near: Near) -> "NearCounts":
        """Count the tokens near the places of a node."""
        _, starts, _ = corpus.sequence
        size = len(starts) - 1
        term = term_map.term_of[near.forms]
        kept = term >= 0
        document = np.searchsorted(starts, near.tokens[kept], side="right") - 1
        ones = np.ones(len(document), dtype=np.int32)
        matrix = SparseMatrix.of_cells(ones, document, term[kept], (size, len(term_map.terms)))
        base = np.diff(np.searchsorted(near.words, starts)).astype(np.int64)
        return cls(matrix, base, np.bincount(documents_of(corpus, places), minlength=size))


@dataclass(frozen=True)
class ContextSide:
    """One side of a comparison: its name, what is near its node, and the numbers of its documents, rising."""

    name: str
    near: NearCounts
    documents: np.ndarray


@dataclass(frozen=True)
class ContextPair:
    """Two sides that are compared, and the name of the group or the node that both belong to."""

    within: str
    target: ContextSide
    reference: ContextSide


def contexts(
    counts: Counts,
    pairs: Sequence[ContextPair],
    sampling: SamplingUnits,
    settings: CollocatesSettings | None = None,
    within: str = "group",
    note: TakeNote = lambda text: None,
) -> Table:
    """Compare what is near two nodes, or near one node in two groups.

    Parameters
    ----------
    counts : Counts
        Of the terms in all of the texts.
    pairs : sequence of ContextPair
    sampling : SamplingUnits
        Of the documents.
    settings : CollocatesSettings, optional
    within : str
        The column for what both sides belong to: ``group`` or ``node``.
    note : callable
        Receives how many terms pass, and what limits the test.

    Returns
    -------
    Table
        A row for each term that is near both sides together ``min_together`` times or more, ranked by
        ``ll_documents`` within a pair.

    Notes
    -----
    The two sides are corpora of near tokens; a document in which both nodes stand lies on both. Test, interval and
    adjustment are those of keyness over documents, and the near tokens of a sampling unit are its size.
    """
    settings = settings or CollocatesSettings()
    asked = KeynessSettings(
        min_freq=settings.min_together,
        adjust=settings.adjust,
        sampling_unit=settings.sampling_unit,
        independent_units=settings.independent_units,
    )
    # of several comparisons the summary says which is which
    named = [f"{pair.within}: " if len(pairs) > 1 else "" for pair in pairs]
    every = [(pair, _compared(counts, pair, name, sampling, asked)) for pair, name in zip(pairs, named, strict=True)]
    some = [(pair, one, select(one)) for pair, one in every if len(one.wanted)]
    if some:
        compared, passing = [one for _, one, _ in some], [selection.passing for *_, selection in some]
        for text in keyness_summary(compared, passing, asked):
            note(text)
    tables = [_table(counts, pair, one, selection, within) for pair, one, selection in some]
    if not tables:
        return Table({})
    return Table.joined(tables).only([name for name in contexts_schema().names if name in tables[0]])


def _compared(
    counts: Counts, pair: ContextPair, named: str, sampling: SamplingUnits, asked: KeynessSettings
) -> ComparisonRun:
    """The two sides as a comparison of keyness, the documents of the reference after those of the target."""
    sides = (pair.target, pair.reference)
    number = len(counts.documents)
    together = Counts(
        SparseMatrix.stacked([side.near.matrix for side in sides]),
        counts.terms,
        np.concatenate([side.near.base for side in sides]),
        counts.documents.at(np.tile(np.arange(number), 2)),
        counts.groups,
        {},
    )
    target, reference = (Part(together, side.documents + at * number) for at, side in enumerate(sides))
    comparison = Comparison(f"{named}{pair.target.name}", pair.reference.name, (pair.reference.name,))
    twice = replace(sampling, of=np.tile(sampling.of, 2), names=None)
    return ComparisonRun(comparison, target, reference, asked, None, lambda done, of: None, twice)


def _table(counts: Counts, pair: ContextPair, one: ComparisonRun, selection: Selection, within: str) -> Table:
    """The rows of a pair, in the order of their ranks."""
    rows, wanted = one.row_of[selection.terms], one.wanted[selection.terms]
    sides = one.sides.at(rows)
    names = np.array(["", pair.target.name, pair.reference.name], dtype=object)
    columns: dict[str, Any] = {
        within: pair.within,
        "target": pair.target.name,
        "reference": pair.reference.name,
        "rank": selection.rank,
        "collocate": names_of(one.target, wanted),
        "higher_in": names[sides.difference.astype(int)],
        "together_target": sides.a,
        "together_reference": sides.b,
        **{name: MEASURES[name].of(sides) for name in _EVIDENCE},
    }
    for end, side, part, together in (
        ("target", pair.target, one.target, sides.a),
        ("reference", pair.reference, one.reference, sides.b),
    ):
        columns[f"per_thousand_{end}"] = 1000 * together / part.tokens if part.tokens else np.full(len(rows), np.nan)
        columns[f"log_dice_{end}"] = _log_dice(counts, side, wanted, together)
        columns[f"docs_{end}"] = part.docs[wanted]
    noted = {BY_TOKENS_ONLY: one.by_tokens_only[rows]}
    comparison = Comparison(pair.target.name, pair.reference.name, (pair.reference.name,))
    absent = "never near" if within == "group" else "never near it in"
    columns["note"] = notes_of(
        comparison, one.target, one.reference, wanted, sides.difference, noted, in_one=True, absent=absent
    )
    return Table(columns)


def _log_dice(counts: Counts, side: ContextSide, wanted: np.ndarray, together: np.ndarray) -> np.ndarray:
    """(wanted,) how strongly each term belongs to the node of a side; NaN where the two are never together."""
    part = Part(counts, side.documents)
    window, places = (int(each[side.documents].sum()) for each in (side.near.base, side.near.places))
    found = np.full(len(wanted), np.nan)
    some = np.flatnonzero(together)
    data = Cooccurrence(together[some], part.freq[wanted[some]], window, places, part.tokens)
    found[some] = ASSOCIATIONS["log_dice"].of(data)
    return found
