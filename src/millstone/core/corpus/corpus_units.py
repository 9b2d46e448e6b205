"""Documents cut anew in a scanned corpus: into sentences, equal parts, or windows of so many words."""

from dataclasses import replace
from itertools import pairwise

import numpy as np

from millstone.core.base.arrays import begins
from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.documents import as_objects
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.tables.table import Table, distinct_rows
from millstone.core.tokenise.token_rules import are_words


def cut_corpus(corpus: Corpus, unit: str, size: int = 0) -> Corpus:
    """A corpus whose documents are the pieces of the given ones.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    unit : str
        ``sentence``; ``parts``: `size` equal parts, part i of T tokens ends at token floor(i T / size);
        ``words``: pieces of `size` tokens, a last one shorter than half joins the one before.
    size : int

    Returns
    -------
    Corpus
        A document NAME becomes NAME#1, NAME#2, ..., with the columns ``part_of`` and ``part``; a
        document without tokens stays as it is.

    Raises
    ------
    DataError
        When a document has fewer tokens than parts.
    """
    ids, starts, breaks = corpus.sequence
    is_word = are_words(corpus.forms)[ids]
    words_before = np.concatenate(([0], np.cumsum(is_word)))
    word_places = np.concatenate((np.flatnonzero(is_word), [len(ids)]))
    cuts = []
    for number, (first, last) in enumerate(pairwise(starts.tolist())):
        if unit == "sentence":
            inside = breaks[np.searchsorted(breaks, first, "right") : np.searchsorted(breaks, last, "left")]
            before, where = np.unique(words_before[inside], return_index=True)
            cuts.append(inside[where[(before > words_before[first]) & (before < words_before[last])]])
            continue
        total = int(words_before[last] - words_before[first])
        ends = _part_ends(corpus, number, total, size) if unit == "parts" else _window_ends(total, size)
        cuts.append(word_places[words_before[first] + ends])
    return _recut(corpus, cuts)


def _part_ends(corpus: Corpus, number: int, total: int, parts: int) -> np.ndarray:
    if 0 < total < parts:
        name, group = (corpus.documents[column][number] for column in ("document", "group"))
        raise DataError(
            f"{name} in group {group} has {total:,} tokens, too few for {parts} parts",
            f"choose fewer parts, or leave short documents out with --min-tokens {parts}",
        )
    return np.arange(1, parts) * total // parts if total else np.array([], dtype=np.int64)


def _window_ends(total: int, size: int) -> np.ndarray:
    ends = np.arange(size, total, size)
    return ends[:-1] if len(ends) and 2 * (total - ends[-1]) < size else ends


def _recut(corpus: Corpus, cuts: list[np.ndarray]) -> Corpus:
    ids, starts, _ = corpus.sequence
    pieces = np.array([len(inside) + 1 for inside in cuts], dtype=np.int64)
    parent = np.repeat(np.arange(len(cuts)), pieces)
    part = np.arange(len(parent)) - np.repeat(np.cumsum(pieces) - pieces, pieces) + 1
    # there may be no document at all
    begins = [np.concatenate(([first], inside)) for first, inside in zip(starts, cuts, strict=False)]
    new_starts = np.concatenate([*begins, starts[-1:]]).astype(np.int64)
    rows = np.repeat(np.arange(len(parent)), np.diff(new_starts))
    ones = np.ones(len(ids), dtype=np.int32)
    form_counts = SparseMatrix.of_cells(ones, rows, ids, (len(parent), len(corpus.forms)))
    documents = corpus.documents.without("part_of", "part").at(parent)
    names = documents["document"]
    numbered = as_objects([f"{name}#{number}" for name, number in zip(names, part, strict=True)])
    documents = documents.with_columns({"document": numbered})
    documents = documents.with_columns({"part_of": names, "part": part}, place=2)
    return replace(
        corpus,
        form_counts=form_counts,
        tokens=form_counts @ are_words(corpus.forms),
        documents=documents,
        starts=new_starts,
    )


def with_positions(corpus: Corpus) -> Corpus:
    """The corpus with a column ``position``: where a part begins, in percent of its document's tokens.

    Documents that are not parts are left as they are.

    Parameters
    ----------
    corpus : Corpus
        Its documents may be parts of texts.

    Returns
    -------
    Corpus
    """
    if "part_of" not in corpus.documents:
        return corpus
    documents, tokens = corpus.documents, corpus.tokens
    run = text_numbers(documents)
    whole = np.bincount(run, weights=tokens)[run]
    first = np.flatnonzero(begins(run))
    before = np.cumsum(tokens) - tokens
    before = before - before[first][run]
    position = 100 * before / np.where(whole > 0, whole, np.nan)
    return replace(
        corpus, documents=documents.with_columns({"position": position}, documents.names.index("part") + 1)
    )


def text_numbers(documents: Table) -> np.ndarray:
    """(documents,) the number of the text that each part is of, counted from 0.

    The parts of a text stand together, and two texts may have the same name.

    Parameters
    ----------
    documents : Table
        Rows in the order of the texts.

    Returns
    -------
    ndarray
        int64.
    """
    name, _ = distinct_rows([documents["part_of"]])
    is_first = begins(name)
    if "part" in documents:
        part = np.asarray(documents["part"])
        is_first[1:] |= part[1:] <= part[:-1]
    return np.cumsum(is_first) - 1


def grouped_by_part(corpus: Corpus) -> Corpus:
    """The corpus with the first parts of all texts as the group 1, the second ones as 2, and so on.

    A text without tokens, which has no parts, is its own first part.

    Parameters
    ----------
    corpus : Corpus

    Returns
    -------
    Corpus
        A document without parts is a first part.
    """
    if "part" not in corpus.documents:
        return corpus
    part = np.maximum(corpus.documents["part"], 1).tolist()
    documents = corpus.documents.with_columns({"group": as_objects(list(map(str, part)))})
    return replace(corpus, documents=documents, groups=tuple(map(str, sorted(set(part)))))
