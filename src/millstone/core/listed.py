"""Frequency lists, and fields of documents, as counts."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
import pandas as pd
from scipy import sparse

from millstone.core.cells import with_columns
from millstone.core.corpus import Corpus
from millstone.core.counts import Counts, Listed
from millstone.core.declare import nearest
from millstone.core.errors import DataError
from millstone.core.terms import TermMap


@dataclass
class FrequencyList:
    """One list: term -> occurrences, term -> documents where known, and the sizes of its corpus where known."""

    freq: dict[str, int] = field(default_factory=dict)
    docs: dict[str, int] = field(default_factory=dict)
    tokens: int | None = None
    documents: int | None = None

    def add(self, term: str, freq: int, docs: int | None) -> None:
        """Add a row; the documents of a term that stands in several rows are not known."""
        if docs is not None and term not in self.freq:
            self.docs[term] = docs
        else:
            self.docs.pop(term, None)
        self.freq[term] = self.freq.get(term, 0) + freq


def corpus_of_lists(lists: Mapping[str, FrequencyList]) -> Corpus:
    """A corpus in which each list is a group of one document, whose tokens are those of its corpus.

    Parameters
    ----------
    lists : mapping
        Group -> its list.

    Raises
    ------
    DataError
        When a list has more occurrences than its corpus has tokens.
    """
    forms = sorted({term for one in lists.values() for term in one.freq})
    number = {form: at for at, form in enumerate(forms)}
    rows, columns, values = [], [], []
    for row, (group, one) in enumerate(lists.items()):
        listed = sum(one.freq.values())
        if one.tokens is not None and one.tokens < listed:
            raise DataError(
                f"the list {group!r} has {listed:,} occurrences, more than its corpus size {one.tokens:,}",
                f"check --base-size {group}=N, or the companion of the list",
            )
        rows += [row] * len(one.freq)
        columns += [number[term] for term in one.freq]
        values += list(one.freq.values())
    shape = (len(lists), len(forms))
    counts = sparse.coo_array((np.array(values, dtype=np.int64), (rows, columns)), shape=shape).tocsr()
    sizes = [sum(one.freq.values()) if one.tokens is None else one.tokens for one in lists.values()]
    names = list(lists)
    documents = pd.DataFrame({"document": names, "group": names}, dtype=object)
    return Corpus(forms, counts, np.array(sizes, dtype=np.int64), documents, tuple(names))


def with_documents(counts: Counts, corpus: Corpus, term_map: TermMap, lists: Mapping[str, FrequencyList]) -> Counts:
    """Counts of lists with what the lists say of documents; unknown where several forms are one term."""
    docs = np.full((len(lists), len(counts.terms)), np.nan)
    forms_of = np.bincount(term_map.term_of[term_map.term_of >= 0], minlength=len(counts.terms))
    number = dict(zip(corpus.forms, term_map.term_of.tolist(), strict=True))
    for row, one in enumerate(lists.values()):
        if not one.docs:
            continue
        # a term that is not in a list stands in none of its documents
        docs[row] = 0
        for form in one.freq:
            term = number[form]
            if term >= 0:
                docs[row, term] = one.docs.get(form, np.nan) if forms_of[term] == 1 else np.nan
    known = [np.nan if one.documents is None else float(one.documents) for one in lists.values()]
    return replace(counts, listed=Listed(docs, np.array(known)))


def aligned(counts: Counts, listed: Counts) -> tuple[Counts, Counts]:
    """Counts of texts and of a list under the terms that either has, so that they can be compared."""
    terms = sorted({*counts.terms[:].tolist(), *listed.terms[:].tolist()})
    number = {term: at for at, term in enumerate(terms)}
    return _under(counts, terms, number), _under(listed, terms, number)


def _under(counts: Counts, terms: list[str], number: Mapping[str, int]) -> Counts:
    column_of = np.array([number[term] for term in counts.terms[:].tolist()], dtype=np.int32)
    matrix = with_columns(counts.matrix, column_of, len(terms))
    found = replace(counts, matrix=matrix, terms=np.array(terms, dtype=object), forms=None)
    if counts.listed is None:
        return found
    docs = np.full((len(counts.listed.docs), len(terms)), np.nan)
    docs[:, column_of] = counts.listed.docs
    return replace(found, listed=replace(counts.listed, docs=docs))


def count_values(corpus: Corpus, name: str) -> Counts:
    """Count the values of a field of the documents; each document counts once, one without a value not at all.

    Parameters
    ----------
    corpus : Corpus
    name : str
        A column of its documents.

    Raises
    ------
    DataError
        For a field that no document has.
    """
    if name not in corpus.documents.columns:
        known = [str(one) for one in corpus.documents.columns]
        raise DataError(
            f"--count-field: there is no field {name!r}{nearest(name, known)}", f"the fields are {', '.join(known)}"
        )
    cells = [" ".join(str(cell).split()) for cell in corpus.documents[name]]
    terms = np.array(sorted(set(cells) - {""}), dtype=object)
    number = {term: at for at, term in enumerate(terms)}
    rows = [row for row, cell in enumerate(cells) if cell]
    columns = [number[cells[row]] for row in rows]
    ones = np.ones(len(rows), dtype=np.int32)
    matrix = sparse.coo_array((ones, (rows, columns)), shape=(len(cells), len(terms))).tocsr()
    return Counts(matrix, terms, np.ones(len(cells), dtype=np.int64), corpus.documents, corpus.groups, {})
