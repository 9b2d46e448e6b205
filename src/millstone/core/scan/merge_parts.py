"""Scans of parts of a corpus taken together: what a scan of all of it gives."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import accumulate, chain

import numpy as np

from millstone.core.base.arrays import unique
from millstone.core.corpus.corpus import Corpus, Token, natural_key
from millstone.core.corpus.documents import joined_documents
from millstone.core.corpus.form_words import sorted_unique
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.scan.numbering import PADDING, new_numbering

Keys = bytes | tuple[Token, ...]


@dataclass(frozen=True)
class PartCorpus:
    """The scan of a part of a corpus as it is sent and joined: a `corpus` without its forms, and these by themselves.

    `keys` are in their order: forms in UTF-8, a line feed after each; of annotated texts what tells them apart.
    """

    keys: Keys
    corpus: Corpus


def packed(corpus: Corpus) -> PartCorpus:
    """A corpus, as `scan` gives it, as a part of a larger one.

    Parameters
    ----------
    corpus : Corpus

    Returns
    -------
    PartCorpus
    """
    if corpus.annotation:
        return PartCorpus(corpus.annotation, replace(corpus, forms=[], annotation=()))
    return PartCorpus("\n".join([*corpus.forms, ""]).encode("utf-8", "surrogatepass"), replace(corpus, forms=[]))


def unpacked(part: PartCorpus) -> Corpus:
    """A part as the corpus that it is.

    Parameters
    ----------
    part : PartCorpus

    Returns
    -------
    Corpus
    """
    if isinstance(part.keys, tuple):
        return replace(part.corpus, forms=[key.form for key in part.keys], annotation=part.keys)
    return replace(part.corpus, forms=_forms(part.keys))


def joined_scans(parts: Sequence[PartCorpus]) -> PartCorpus:
    """The corpus whose documents are those of its parts, one part after the other.

    Parameters
    ----------
    parts : sequence of PartCorpus
        At least one; all of them ordered, or none.

    Returns
    -------
    PartCorpus
        Unpacked, it is what `scan` gives for all documents.
    """
    if len(parts) == 1:
        return parts[0]
    plain = [part.keys for part in parts if isinstance(part.keys, bytes)]
    keys: Keys
    if len(plain) == len(parts):
        keys, numbers, different_ones = _numbered_lines(plain)
    else:
        keys, numbers, different_ones = _numbered_tokens([_tokens(part.keys) for part in parts])
    corpora = [part.corpus for part in parts]
    corpus = Corpus(
        forms=[],
        form_counts=_stacked([one.form_counts for one in corpora], numbers, different_ones),
        tokens=np.concatenate([one.tokens for one in corpora]),
        documents=joined_documents([one.documents for one in corpora]),
        groups=tuple(sorted(set().union(*(one.groups for one in corpora)), key=natural_key)),
    )
    return PartCorpus(keys, corpus if corpora[0].ids is None else _with_order(corpus, corpora, numbers))


def _stacked(parts: Sequence[SparseMatrix], numbers: Sequence[np.ndarray], columns: int) -> SparseMatrix:
    """The matrices one below the other, their columns under other `numbers`, which rise as they did."""
    indices = np.empty(sum(one.nnz for one in parts), dtype=np.int32)
    at = 0
    for one, number in zip(parts, numbers, strict=True):
        np.take(number, one.indices, out=indices[at : at + one.nnz], mode="clip")
        at += one.nnz
    lengths = np.concatenate([np.diff(one.indptr) for one in parts])
    data = np.concatenate([one.data for one in parts])
    return SparseMatrix(data, indices, np.concatenate(([0], np.cumsum(lengths))), (len(lengths), columns))


def _forms(lines: bytes) -> list[str]:
    return lines.decode("utf-8", "surrogatepass").split("\n")[:-1]


def _tokens(keys: Keys) -> tuple[Token, ...]:
    """The forms of a part as tokens; a word of plain text has neither lemma nor tag."""
    return keys if isinstance(keys, tuple) else tuple(map(Token, _forms(keys)))


def _numbered_lines(parts: Sequence[bytes]) -> tuple[bytes, list[np.ndarray], int]:
    """Unique lines of all parts in order, the index of each line of a part among them (int32), and their number."""
    numbering = new_numbering()
    found = []
    for lines in parts:
        ends = np.flatnonzero(np.frombuffer(lines, dtype=np.uint8) == ord("\n"))
        lengths = np.diff(ends, prepend=-1) - 1
        found.append(numbering.numbers(lines + PADDING, ends - lengths, lengths))
    order = numbering.ordered(unique(np.concatenate(found)))
    place = np.zeros(len(numbering), dtype=np.int32)
    place[order] = np.arange(len(order), dtype=np.int32)
    return numbering.strings(order)[0], [place[numbers] for numbers in found], len(order)


def _numbered_tokens(parts: Sequence[tuple[Token, ...]]) -> tuple[tuple[Token, ...], list[np.ndarray], int]:
    """Unique annotated words of all parts in order, the index of each word of a part among them, and their number."""
    keys, number = sorted_unique(list(chain.from_iterable(parts)))
    ends = list(accumulate(map(len, parts)))
    return tuple(keys), np.split(number, ends[:-1]), len(keys)


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
