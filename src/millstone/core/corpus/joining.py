"""Scans of parts of a corpus taken together: what a scan of all of it gives."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import accumulate, chain

import numpy as np

from millstone.core.arrays import unique
from millstone.core.corpus.corpus import Corpus, Token, natural_key
from millstone.core.corpus.documents import joined_documents
from millstone.core.corpus.form_words import different
from millstone.core.matrix.cells import SparseMatrix


def joined_scans(parts: Sequence[Corpus]) -> Corpus:
    """The corpus whose documents are those of its parts, one part after the other.

    Parameters
    ----------
    parts : sequence of Corpus
        At least one, each as `scan` gives it; all of them ordered, or none.

    Returns
    -------
    Corpus
        The same as `scan` gives for all documents.
    """
    if len(parts) == 1:
        return parts[0]
    is_annotated = any(part.annotation for part in parts)
    keys, numbers = _numbered([_keys(part, is_annotated) for part in parts])
    matrices = []
    for part, number in zip(parts, numbers, strict=True):
        counts = part.form_counts
        # forms are in order in each part, so the columns of a row rise as they did
        shape = (counts.shape[0], len(keys))
        matrices.append(SparseMatrix(counts.data, number[counts.indices], counts.indptr, shape))
    corpus = Corpus(
        forms=[key.form if isinstance(key, Token) else key for key in keys],
        form_counts=SparseMatrix.stacked(matrices),
        tokens=np.concatenate([part.tokens for part in parts]),
        documents=joined_documents([part.documents for part in parts]),
        groups=tuple(sorted(set().union(*(part.groups for part in parts)), key=natural_key)),
        annotation=tuple(key for key in keys if isinstance(key, Token)),
    )
    return corpus if parts[0].ids is None else _with_order(corpus, parts, numbers)


def _keys(part: Corpus, is_annotated: bool) -> Sequence[str | Token]:
    """What tells the forms of a part apart: a word of plain text has neither lemma nor tag."""
    if not is_annotated:
        return part.forms
    return part.annotation or [Token(form) for form in part.forms]


def _numbered(parts: Sequence[Sequence[str | Token]]) -> tuple[list[str | Token], list[np.ndarray]]:
    """The different keys of all parts in order, and the number of each key of a part among them, int32."""
    keys, number = different(list(chain.from_iterable(parts)))
    ends = list(accumulate(map(len, parts)))
    return keys, np.split(number, ends[:-1])


def _with_order(corpus: Corpus, parts: Sequence[Corpus], numbers: Sequence[np.ndarray]) -> Corpus:
    """The corpus with the order of its tokens."""
    sequences = [part.sequence for part in parts]
    offsets = [0, *accumulate(len(ids) for ids, _, _ in sequences)]
    starts = [one + offset for (_, one, _), offset in zip(sequences, offsets, strict=False)]
    breaks = [one + offset for (_, _, one), offset in zip(sequences, offsets, strict=False)]
    return replace(
        corpus,
        ids=np.concatenate([number[ids] for number, (ids, _, _) in zip(numbers, sequences, strict=True)]),
        # where a part ends the next one starts
        starts=np.concatenate([*(one[:-1] for one in starts[:-1]), starts[-1]]),
        breaks=unique(np.concatenate(breaks)),
    )
