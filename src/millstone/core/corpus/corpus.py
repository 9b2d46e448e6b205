"""The scanned texts: integers for tokens, a list of the different words, a table of documents."""

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import repeat
from typing import NamedTuple

import numpy as np

from millstone.core.base.arrays import unique
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import numbered
from millstone.core.corpus.form_words import FormWords, folded
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.tables.table import Table, distinct_rows
from millstone.core.tokenise.words import fold_case


class Token(NamedTuple):
    """A token of annotated input: its form, its lemma and its part of speech, "" where unknown."""

    form: str
    lemma: str = ""
    tag: str = ""


@dataclass(slots=True)
class Document:
    """One text with its name, its group, what else is known of it, and the file it came from.

    Its reader makes it, and fills in the group when all fields are known; then it stays as it is.
    `annotated` holds the tokens of annotated input, None where a sentence ends; `text` is then only
    for reading. A piece of a longer document has the number of its `part`, from 1, and is `part_of` it.
    A long text may come in `chunks` of UTF-8, given anew at each call; its `text` is then empty.
    """

    name: str
    group: str
    text: str
    metadata: Mapping[str, str] = field(default_factory=dict)
    source: str = ""
    annotated: Sequence[Token | None] | None = None
    part_of: str = ""
    part: int = 0
    chunks: Callable[[], Iterator[bytes]] | None = None

    def whole(self) -> "Document":
        """The document with its text in one."""
        if self.chunks is None:
            return self
        return replace(self, text=b"".join(self.chunks()).decode("utf-8"), chunks=None)


@frozen
class Corpus:
    """A scanned corpus of D documents, F different forms and T tokens.

    Attributes
    ----------
    forms : list of str
        (F,) the different words as written, after normalisation; with annotation, the forms of
        the different triples of form, lemma and tag.
    form_counts : SparseMatrix
        (D, F) int32, occurrences.
    tokens : ndarray
        (D,) int64, the word tokens of each document: marks of punctuation do not count.
    documents : Table
        D rows: ``document``, ``group``, then the metadata.
    groups : tuple of str
        The groups in the order of tables and charts.
    annotation : tuple of Token
        (F,) with annotated input, else empty; a form of plain text has neither lemma nor tag.
    least : int
        Forms of terms with fewer occurrences in all may be left out, though not from `tokens`: there were too many.
    kept_lowered : FormWords or None
        `lowered`, where it was kept with the scan.
    ids, starts, breaks : ndarray or None
        Only after an ordered scan: int32 (T,) the form of each token in text order; int64
        (D + 1,) where each document starts; int64 positions before which a sentence ends.
    """

    forms: list[str]
    form_counts: SparseMatrix
    tokens: np.ndarray
    documents: Table
    groups: tuple[str, ...]
    annotation: tuple[Token, ...] = ()
    kept_lowered: FormWords | None = None
    ids: np.ndarray | None = None
    starts: np.ndarray | None = None
    breaks: np.ndarray | None = None
    least: int = 1

    @cached_property
    def lowered(self) -> FormWords:
        """The forms in small letters."""
        return self.kept_lowered or FormWords.of(folded(self.forms, fold_case))

    @cached_property
    def has_marks(self) -> bool:
        """Whether marks of punctuation were counted, too."""
        return int(self.form_counts.row_sums().sum()) > int(self.tokens.sum())

    @property
    def sequence(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """``ids, starts, breaks`` of an ordered scan.

        Raises
        ------
        ValueError
            When the scan was not ordered.
        """
        if self.ids is None or self.starts is None or self.breaks is None:
            raise ValueError("the order of words is needed, and the scan did not keep it")
        return self.ids, self.starts, self.breaks

    def in_order(self, groups: Sequence[str]) -> "Corpus":
        """The corpus with its groups in the order of `groups`; those not named follow."""
        first = [group for group in dict.fromkeys(groups) if group in self.groups]
        return replace(self, groups=(*first, *(group for group in self.groups if group not in first)))

    def keep(self, wanted: np.ndarray) -> "Corpus":
        """The corpus of those documents for which `wanted`, (D,) bool, is true; groups stay."""
        if wanted.all():
            return self
        rows = np.flatnonzero(wanted)
        kept = replace(
            self,
            form_counts=self.form_counts.rows(rows),
            tokens=self.tokens[rows],
            documents=self.documents.at(rows),
        )
        if self.ids is None or self.starts is None or self.breaks is None:
            return kept
        lengths = np.diff(self.starts)
        token_kept = np.repeat(wanted, lengths)
        before = np.concatenate(([0], np.cumsum(token_kept)))
        return replace(
            kept,
            ids=self.ids[token_kept],
            starts=np.concatenate(([0], np.cumsum(lengths[rows]))),
            breaks=unique(before[self.breaks]),
        )


@frozen
class GroupSize:
    """How large a group is, after documents were left out.

    `places` are those of n-grams, by their size; `texts` is how many texts the documents are parts of, 0 where they
    are whole.
    """

    name: str
    documents: int
    tokens: int
    places: Mapping[str, int] = field(default_factory=dict)
    texts: int = 0

    @property
    def number(self) -> str:
        """``12 documents``, or ``120 parts of 12 texts``."""
        if self.texts:
            return f"{numbered(self.documents, 'part')} of {numbered(self.texts, 'text')}"
        return numbered(self.documents, "document")


def whole_size(groups: Sequence[GroupSize], by_part: bool = False) -> GroupSize:
    """The size of all groups together; `by_part` says that each text has parts in several of them.

    Parameters
    ----------
    groups : sequence of GroupSize
        The groups in their order.
    by_part : bool, optional
        A text may have parts in several groups.

    Returns
    -------
    GroupSize
    """
    documents, tokens = (sum(getattr(size, what) for size in groups) for what in ("documents", "tokens"))
    texts = [size.texts for size in groups]
    return GroupSize("", documents, tokens, texts=max(texts, default=0) if by_part else sum(texts))


def group_sizes(documents: Table, tokens: np.ndarray, groups: Sequence[str]) -> tuple[GroupSize, ...]:
    """The size of each group; `tokens` is (D,).

    Parameters
    ----------
    documents : Table
        The table of documents, a row for each.
    tokens : ndarray
        (D,) word tokens of each document.
    groups : sequence of str
        The groups in their order.

    Returns
    -------
    tuple of GroupSize
    """
    codes = group_codes(documents, groups)
    per_group = np.bincount(codes, minlength=len(groups))
    base = np.bincount(codes, weights=tokens, minlength=len(groups)).astype(np.int64)
    texts = np.zeros(len(groups), dtype=np.int64)
    if "part_of" in documents:
        _, first = distinct_rows([codes, documents["part_of"]])
        texts = np.bincount(codes[first], minlength=len(groups))
    rows = zip(groups, per_group.tolist(), base.tolist(), texts.tolist(), strict=True)
    return tuple(GroupSize(name, number, size, texts=of) for name, number, size, of in rows)


def group_codes(documents: Table, groups: Sequence[str]) -> np.ndarray:
    """(D,) the number of each document's group.

    Parameters
    ----------
    documents : Table
        The table of documents, a row for each.
    groups : sequence of str
        The groups in their order.

    Returns
    -------
    ndarray
        (D,) int64, its index among `groups`.
    """
    number = {group: place for place, group in enumerate(groups)}
    names = documents["group"].tolist()
    return np.fromiter(map(number.get, names, repeat(-1)), dtype=np.intp, count=len(names))


ALL = "all"
"""The group of all texts together."""


def units_by_group(corpus: Corpus, pooled: bool) -> dict[str, np.ndarray]:
    """Name -> (D,) bool, the documents of each group; of all together where groups are pooled.

    Parameters
    ----------
    corpus : Corpus
    pooled : bool
        All documents are one group.

    Returns
    -------
    dict of str to ndarray
    """
    if pooled:
        return {ALL: np.ones(len(corpus.documents), dtype=bool)}
    codes = group_codes(corpus.documents, corpus.groups)
    return {group: codes == number for number, group in enumerate(corpus.groups)}


NOUNS = ("document", "part")
"""The nouns for a row of a table of documents."""


def noun_of(documents: Table) -> str:
    """The noun for a row of a table of documents: ``document``, or ``part`` where they are parts of texts.

    Parameters
    ----------
    documents : Table
        The table of documents, a row for each.

    Returns
    -------
    str
    """
    return NOUNS[int("part_of" in documents)]


def natural_key(name: str) -> list[tuple[int, int | str]]:
    """Sort key under which ``part 2`` comes before ``part 10``."""
    parts = re.split(r"(\d+)", name)
    return [(0, int(part)) if part.isdecimal() else (1, part) for part in parts if part]
