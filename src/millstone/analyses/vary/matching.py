"""Which rows of different settings are the same: a lemma, a stem and a word are matched by a form that both know."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from millstone.analyses.vary.rows import BLOCKS, SettingRows
from millstone.core.matrix.totals import column_sums
from millstone.texts.term_counts import PreparedTerms

Key = tuple[str, ...]


def commonest_forms(prepared: PreparedTerms) -> dict[str, str]:
    """Term -> the commonest of the written forms that count as it, where that is another word.

    The name of a merge is no form of its words, and has none.

    Parameters
    ----------
    prepared : PreparedTerms

    Returns
    -------
    dict of str to str
        Among equally common forms the first in code-point order.
    """
    term_map, forms = prepared.term_map, prepared.corpus.forms
    kept = np.flatnonzero(term_map.term_of >= 0)
    if not len(kept):
        return {}
    totals = np.asarray(column_sums(prepared.corpus.form_counts))[kept]
    of = term_map.term_of[kept]
    # forms stand in code-point order only by chance
    order = np.lexsort((kept, -totals, of))
    firsts = order[np.unique(of[order], return_index=True)[1]]
    found = {str(term_map.terms[of[one]]): forms[kept[one]] for one in firsts.tolist()}
    merged: set[str] = set()
    for before, after in pairwise(term_map.stages):
        if after.name == "merge":
            merged = {new for old, new in zip(before.values, after.values, strict=True) if old != new}
    return {term: form for term, form in found.items() if form != term and term not in merged}


@dataclass(frozen=True)
class Matched:
    """The rows of all combinations under common numbers.

    Attributes
    ----------
    keys : list of tuple
        (rows,) the names of the blocks that there are, and the term.
    blocks : tuple of str
        What the first parts of a key are: some of `BLOCKS`.
    at : sequence of ndarray
        Of each combination (its rows,) int64: the number of the common row that each one is.
    """

    keys: list[Key]
    blocks: tuple[str, ...]
    at: Sequence[np.ndarray]


def matched(rows: Sequence[SettingRows], commonest: Sequence[Mapping[str, str]]) -> Matched:
    """Number the rows of several combinations so that the same ones have the same number.

    A term is matched with one that is written alike. Where other settings do not have it, it is matched with the
    term that is written as the commonest of its forms: *child*, of which the texts have *children* only, with
    *children*.

    Parameters
    ----------
    rows : sequence of SettingRows
        Of each combination.
    commonest : sequence of mapping
        Of each combination: term -> the commonest of its forms, where that is another word.

    Returns
    -------
    Matched
    """
    names = _names(rows, commonest)
    blocks = tuple(name for name in BLOCKS if any(name in one.blocks for one in rows))
    numbers: dict[Key, int] = {}
    at = []
    for one, called in zip(rows, names, strict=True):
        lists = [
            tuple(dict(zip(one.blocks, names, strict=True)).get(name, "") for name in blocks) for names in one.lists
        ]
        terms = (called.get(term, term) for term in one.terms.tolist())
        keys = ((*lists[number], term) for number, term in zip(one.list_of.tolist(), terms, strict=True))
        found = (numbers.setdefault(key, len(numbers)) for key in keys)
        at.append(np.fromiter(found, dtype=np.int64, count=len(one.terms)))
    return Matched(list(numbers), blocks, at)


def _names(rows: Sequence[SettingRows], commonest: Sequence[Mapping[str, str]]) -> list[dict[str, str]]:
    """Of each combination: term -> the name of its common row, where that is another word."""
    if not any(commonest):
        return [{} for _ in rows]
    known = [set(one.terms.tolist()) for one in rows]
    have = Counter(term for one in known for term in one)
    found = []
    for terms, forms in zip(known, commonest, strict=True):
        own: dict[str, str] = {}
        taken: set[str] = set()
        for term in sorted(terms & forms.keys()):
            form = forms[term]
            # another term of these settings has the form, or settings that know the form know the term too
            if form in terms or form in taken or form not in have:
                continue
            if any(form in other and term in other for other in known):
                continue
            if have[form] >= have[term]:
                own[term] = form
                taken.add(form)
        found.append(own)
    return found


def per_row(matched: Matched, values: Sequence[np.ndarray]) -> np.ndarray:
    """(rows, combinations) float: a value of each common row under each combination, NaN where it has no row.

    Parameters
    ----------
    matched : Matched
    values : sequence of ndarray
        Of each combination (its rows,).

    Returns
    -------
    ndarray
    """
    found = np.full((len(matched.keys), len(values)), np.nan)
    for number, (at, own) in enumerate(zip(matched.at, values, strict=True)):
        found[at, number] = own
    return found
