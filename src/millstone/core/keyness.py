"""Keyness: which terms set two sides apart, how strongly, how surely, and in which direction."""

import numpy as np
import pandas as pd

from millstone.core.comparisons import Comparison, check_group_names, chosen_terms, comparisons
from millstone.core.counts import Counts, Part, competition_ranks
from millstone.core.measures import adjusted, chi2_upper_tail, log_likelihood, log_ratio, ranking
from millstone.core.notes import joined
from millstone.core.ranktest import mann_whitney
from millstone.core.settings import KeynessSettings

ONE_DOCUMENT_SHARE = 0.5
ONE_DOCUMENT_LEAST = 5
DOCUMENTS_FOR_TEST = 8
ALPHA = 0.05


def keyness(counts: Counts, settings: KeynessSettings | None = None) -> pd.DataFrame:
    """Compare the terms of groups.

    Parameters
    ----------
    counts : Counts
        Two groups or more.
    settings : KeynessSettings, optional

    Returns
    -------
    DataFrame
        ``target, reference, rank, term, freq_target, freq_reference, rank_target, rank_reference,
        per_million_target, per_million_reference, docs_percent_target, docs_percent_reference,
        higher_in, log_ratio, log_ratio_low, log_ratio_high, ll, p_adjusted, note``; ranked by ll
        within a comparison, both directions together.

    Raises
    ------
    DataError
        For one group only, a group without tokens, or a group to compare with that does not exist.
    """
    settings = settings or KeynessSettings()
    check_group_names(counts.sizes)
    tables = [_compare(counts, one, settings) for one in comparisons(counts.groups, settings.against)]
    return pd.concat(tables, ignore_index=True)


def _compare(counts: Counts, comparison: Comparison, settings: KeynessSettings) -> pd.DataFrame:
    target, reference = counts.part((comparison.target,)), counts.part(comparison.against)
    wanted = np.flatnonzero(chosen_terms(target, reference, settings))
    a, b = target.freq[wanted], reference.freq[wanted]
    n1, n2 = target.tokens, reference.tokens
    centre, low, high = log_ratio(a, b, n1, n2, settings.zeros)
    ll = log_likelihood(a, b, n1, n2)
    p_adjusted = adjusted(chi2_upper_tail(ll), settings.adjust)
    # cross products of whole numbers: exact where a difference of rates is not
    exact = np.int64 if n1 * n2 < 2**62 else object
    difference = a.astype(exact) * n2 - b.astype(exact) * n1
    higher = np.where(difference > 0, comparison.target, np.where(difference < 0, comparison.reference, ""))
    table = pd.DataFrame(
        {
            "target": comparison.target,
            "reference": comparison.reference,
            "rank": 0,
            "term": counts.terms[wanted],
            "freq_target": a,
            "freq_reference": b,
            "rank_target": _list_ranks(target, wanted),
            "rank_reference": _list_ranks(reference, wanted),
            "per_million_target": 1e6 * a / n1,
            "per_million_reference": 1e6 * b / n2,
            "docs_percent_target": 100 * target.docs[wanted] / target.documents,
            "docs_percent_reference": 100 * reference.docs[wanted] / reference.documents,
            "higher_in": higher.astype(object),
            "log_ratio": centre,
            "log_ratio_low": low,
            "log_ratio_high": high,
            "ll": ll,
            "p_adjusted": p_adjusted,
            "note": _notes(comparison, target, reference, wanted, np.sign(difference.astype(float)), p_adjusted),
        }
    )
    table = table.iloc[ranking(ll, a + b)]
    return table.assign(rank=np.arange(1, len(table) + 1))


def _list_ranks(part: Part, wanted: np.ndarray) -> pd.arrays.IntegerArray:
    """(wanted,) the rank in the frequency list, empty for a term that is not in it."""
    return pd.arrays.IntegerArray(competition_ranks(part.freq[wanted], part.freq), part.freq[wanted] == 0)


def _notes(
    comparison: Comparison,
    target: Part,
    reference: Part,
    wanted: np.ndarray,
    direction: np.ndarray,
    p_adjusted: np.ndarray,
) -> np.ndarray:
    in_one = [_in_one_document(part, wanted, direction == side) for part, side in ((target, 1), (reference, -1))]
    absent = [
        np.where(part.freq[wanted] == 0, f"absent from {name}", "")
        for part, name in ((target, comparison.target), (reference, comparison.reference))
    ]
    by_documents = _not_by_documents(target, reference, wanted, p_adjusted)
    return joined([*in_one, *absent, by_documents])


def _in_one_document(part: Part, wanted: np.ndarray, higher_here: np.ndarray) -> np.ndarray:
    notes = np.full(len(wanted), "", dtype=object)
    if len(part.base) < 2 or part.counts.listed is not None:
        return notes
    columns = part.matrix[:, wanted].tocsc()
    freq = part.freq[wanted]
    most = columns.max(axis=0).toarray().ravel()
    which = np.asarray(columns.argmax(axis=0)).ravel()
    noted = higher_here & (freq >= ONE_DOCUMENT_LEAST) & (most >= ONE_DOCUMENT_SHARE * freq)
    for number in np.flatnonzero(noted):
        share = 100 * most[number] / freq[number]
        notes[number] = f"one document ({part.names[which[number]]}) has {share:.0f} % of it"
    return notes


def _not_by_documents(target: Part, reference: Part, wanted: np.ndarray, p_adjusted: np.ndarray) -> np.ndarray:
    if min(len(target.base), len(reference.base)) < DOCUMENTS_FOR_TEST or target.counts.listed is not None:
        return np.full(len(wanted), "")
    p = mann_whitney(target.matrix, reference.matrix, target.base, reference.base)[wanted]
    return np.where((p_adjusted < ALPHA) & (p >= ALPHA), "not by documents", "")
