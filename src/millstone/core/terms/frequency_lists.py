"""Frequency lists, and fields of documents, as counts."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from millstone.core.base.arrays import stable_order, unique
from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import nearest, nearest_names
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.documents import as_objects
from millstone.core.matrix.cells import SparseMatrix, remap_columns
from millstone.core.scan.numbering import PADDING, new_numbering
from millstone.core.tables.table import Table, distinct_rows
from millstone.core.terms.counts import Counts, Listed
from millstone.core.terms.term_map import TermMap


class Cut(NamedTuple):
    """A cut of a list, which lacks terms of its corpus: why, such as ``--top 6``, and the terms that it has."""

    why: str
    terms: np.ndarray


@frozen
class FrequencyList:
    """One list, and the sizes of its corpus where they are known.

    Attributes
    ----------
    terms : ndarray of str
        (terms,) all different.
    freq : ndarray
        (terms,) int64 occurrences.
    docs : ndarray or None
        (terms,) float documents, NaN where not known; None where the list says nothing of documents.
    tokens, documents : int or None
    cuts : tuple of Cut
        Where the list, or a part of it, was cut off: what it lacks is not known to be absent.
    """

    terms: np.ndarray
    freq: np.ndarray
    docs: np.ndarray | None = None
    tokens: int | None = None
    documents: int | None = None
    cuts: tuple[Cut, ...] = ()

    @property
    def size(self) -> int:
        """Tokens of its corpus; where they are not known, those that are listed."""
        return int(self.freq.sum()) if self.tokens is None else self.tokens


def added_up(
    terms: Sequence[str] | np.ndarray, freq: Sequence[int] | np.ndarray, docs: np.ndarray | None = None
) -> FrequencyList:
    """The list that rows make; the documents of a term that is in several rows are not known.

    Parameters
    ----------
    terms : sequence of str
        (rows,).
    freq : sequence of int
        (rows,).
    docs : ndarray, optional
        (rows,) float, NaN where not known.

    Returns
    -------
    FrequencyList
        Terms in code-point order.
    """
    terms, freq = np.asarray(terms, dtype=object), np.asarray(freq, dtype=np.int64)
    if len(set(terms.tolist())) == len(terms):
        return FrequencyList(terms, freq, docs)
    number, first = distinct_rows([terms])
    different = terms[first]
    sums = np.zeros(len(different), dtype=np.int64)
    np.add.at(sums, number, freq)
    if docs is not None:
        once = np.bincount(number)[number] == 1
        merged = np.full(len(different), np.nan)
        merged[number[once]] = docs[once]
        docs = merged
    return FrequencyList(different, sums, docs)


def together(lists: Sequence[FrequencyList]) -> FrequencyList:
    """Several lists of one group added up; a size is known where it is of all of them.

    Parameters
    ----------
    lists : sequence of FrequencyList
        Each is a group.

    Returns
    -------
    FrequencyList
    """
    if len(lists) == 1:
        return lists[0]
    docs = None
    if any(one.docs is not None for one in lists):
        docs = np.concatenate([np.full(len(one.terms), np.nan) if one.docs is None else one.docs for one in lists])
    tokens, documents = ([getattr(one, name) for one in lists] for name in ("tokens", "documents"))
    return replace(
        added_up(np.concatenate([one.terms for one in lists]), np.concatenate([one.freq for one in lists]), docs),
        tokens=None if None in tokens else sum(tokens),
        documents=None if None in documents else sum(documents),
        cuts=tuple(cut for one in lists for cut in one.cuts),
    )


def corpus_of_lists(lists: Mapping[str, FrequencyList]) -> Corpus:
    """A corpus in which each list is a group of one document, whose tokens are those of its corpus.

    Parameters
    ----------
    lists : mapping
        Group -> its list.

    Returns
    -------
    Corpus

    Raises
    ------
    DataError
        When a list has more occurrences than its corpus has tokens.
    """
    for group, one in lists.items():
        listed = int(one.freq.sum())
        if one.size < listed:
            raise DataError(
                f"the list {group!r} has {listed:,} occurrences, more than its corpus size {one.tokens:,}",
                f"check --base-size {group}=N, or the companion of the list",
            )
    forms, number = in_order([one.terms for one in lists.values()])
    ends = np.cumsum([0, *(len(one.terms) for one in lists.values())])
    order = [start + stable_order(number[start:end]) for start, end in pairwise(ends.tolist())]
    cells = np.concatenate(order)
    freq = np.concatenate([one.freq for one in lists.values()])
    counts = SparseMatrix(freq[cells], number[cells], ends, (len(lists), len(forms)))
    names = list(lists)
    documents = Table({"document": names, "group": names})
    sizes = np.array([one.size for one in lists.values()], dtype=np.int64)
    return Corpus(forms.tolist(), counts, sizes, documents, tuple(names))


def in_order(lists: Sequence[np.ndarray]) -> tuple[np.ndarray, np.ndarray]:
    """Unique terms of several lists in code-point order, and the index of each term of each list, in turn.

    Parameters
    ----------
    lists : sequence of ndarray
        Each is a group.

    Returns
    -------
    tuple[ndarray, ndarray]
        (terms,) object, and (all terms of all lists,) int64.
    """
    every = np.concatenate(lists).tolist()
    together = "\n".join(every).encode("utf-8", "surrogatepass") + b"\n"
    ends = np.flatnonzero(np.frombuffer(together, dtype=np.uint8) == ord("\n"))
    lengths = np.diff(ends, prepend=-1) - 1
    if len(ends) == len(every) and len(every) and lengths.min() > 0 and b"\0" not in together:
        return _numbered(together, ends - lengths, lengths)
    # sorting a list takes a fifth of the time of sorting an array of words
    words = sorted(set(every))
    place = dict(zip(words, range(len(words)), strict=True))
    terms = np.empty(len(words), dtype=object)
    terms[:] = words
    return terms, np.fromiter(map(place.__getitem__, every), dtype=np.int32, count=len(every))


def _numbered(together: bytes, starts: np.ndarray, lengths: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Unique terms of UTF-8 bytes in code-point order, and the index of each term among them."""
    numbering = new_numbering()
    number = numbering.numbers(together + PADDING, starts, lengths)
    different = unique(number)
    order = numbering.ordered(different)
    place = np.zeros(len(numbering), dtype=np.int32)
    place[order] = np.arange(len(order), dtype=np.int32)
    words = numbering.strings(order)[0].decode("utf-8", "surrogatepass").split("\n")[:-1]
    return as_objects(words), place[number]


def with_listed(counts: Counts, corpus: Corpus, term_map: TermMap, lists: Mapping[str, FrequencyList]) -> Counts:
    """Counts of lists with what the lists say of documents, and what cut lists do not say of terms.

    The documents of a term are not known where several forms are one term.

    Parameters
    ----------
    counts : Counts
        Those of the texts.
    corpus : Corpus
        Of the lists, or of texts.
    term_map : TermMap
        The terms of its forms.
    lists : mapping of str to FrequencyList
        Each is a group.

    Returns
    -------
    Counts
    """
    docs = np.full((len(lists), len(counts.terms)), np.nan)
    said = {row: (one, one.docs) for row, one in enumerate(lists.values()) if one.docs is not None}
    if said:
        place = {form: number for number, form in enumerate(corpus.forms)}
        forms_of = np.bincount(term_map.term_of[term_map.term_of >= 0], minlength=len(counts.terms))
    for row, (one, known) in said.items():
        # a term that is not in a list stands in none of its documents
        docs[row] = 0
        term = term_map.term_of[[place[form] for form in one.terms.tolist()]]
        counted = np.flatnonzero(term >= 0)
        term = term[counted]
        docs[row, term] = np.where(forms_of[term] == 1, known[counted], np.nan)
    documents = [np.nan if one.documents is None else float(one.documents) for one in lists.values()]
    unknown = _unknown(len(counts.terms), corpus, term_map, lists)
    docs[unknown] = np.nan
    return replace(counts, listed=Listed(docs, np.array(documents), unknown, tuple(map(_why_cut, lists.values()))))


def _unknown(terms: int, corpus: Corpus, term_map: TermMap, lists: Mapping[str, FrequencyList]) -> np.ndarray:
    """(lists, terms) bool: the terms of which a cut list lacks a form, so that their frequency is not known."""
    found = np.zeros((len(lists), terms), dtype=bool)
    if not any(one.cuts for one in lists.values()):
        return found
    place = {form: number for number, form in enumerate(corpus.forms)}
    for row, one in enumerate(lists.values()):
        for cut in one.cuts:
            lacking = np.ones(len(corpus.forms), dtype=bool)
            lacking[[place[form] for form in cut.terms.tolist()]] = False
            term = term_map.term_of[lacking]
            found[row, term[term >= 0]] = True
    return found


def _why_cut(one: FrequencyList) -> str:
    return "; ".join(dict.fromkeys(cut.why for cut in one.cuts))


def aligned(counts: Counts, listed: Counts) -> tuple[Counts, Counts]:
    """Counts of texts and of a list under the terms that either has, so that they can be compared.

    Parameters
    ----------
    counts : Counts
        Those of the texts.
    listed : Counts
        Those of the list.

    Returns
    -------
    tuple[Counts, Counts]
    """
    terms, number = in_order([counts.terms[:], listed.terms[:]])
    first, second = np.split(number, [len(counts.terms)])
    return _under(counts, terms, first), _under(listed, terms, second)


def _under(counts: Counts, terms: np.ndarray, column_of: np.ndarray) -> Counts:
    matrix = remap_columns(counts.matrix, column_of, len(terms))
    found = replace(counts, matrix=matrix, terms=terms, make_forms=None)
    if counts.listed is None:
        return found
    listed = counts.listed
    docs = np.full((len(listed.docs), len(terms)), np.nan)
    docs[:, column_of] = listed.docs
    # what a list lacks is unknown where it was cut off
    unknown = np.repeat(np.array([bool(why) for why in listed.cut])[:, None], len(terms), axis=1)
    unknown[:, column_of] = listed.unknown
    return replace(found, listed=replace(listed, docs=docs, unknown=unknown))


def count_values(corpus: Corpus, name: str) -> Counts:
    """Count the values of a field of the documents; each document counts once, one without a value not at all.

    Parameters
    ----------
    corpus : Corpus
    name : str
        A column of its documents.

    Returns
    -------
    Counts
        A term for each value.

    Raises
    ------
    DataError
        For a field that no document has.
    """
    if name not in corpus.documents:
        known = corpus.documents.names
        raise DataError(
            f"--count-field: there is no field {name!r}{nearest(name, known)}",
            f"the fields are {nearest_names(name, known)}",
        )
    cells = [" ".join(str(cell).split()) for cell in corpus.documents[name]]
    terms = np.array(sorted(set(cells) - {""}), dtype=object)
    number = {term: at for at, term in enumerate(terms)}
    rows = np.array([row for row, cell in enumerate(cells) if cell], dtype=np.int64)
    columns = np.array([number[cell] for cell in cells if cell], dtype=np.int32)
    ones = np.ones(len(rows), dtype=np.int32)
    matrix = SparseMatrix.of_cells(ones, rows, columns, (len(cells), len(terms)))
    return Counts(matrix, terms, np.ones(len(cells), dtype=np.int64), corpus.documents, corpus.groups, {})
