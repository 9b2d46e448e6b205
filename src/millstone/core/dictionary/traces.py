"""How each word was counted: the words of each group with their categories, and every word in its order."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from millstone.core.corpus.corpus import group_codes
from millstone.core.corpus.documents import as_objects
from millstone.core.dictionary.matches import DictionaryMatches
from millstone.core.matrix.totals import column_sums
from millstone.core.tables.table import Table, distinct_rows
from millstone.core.tokenise.token_rules import is_mark
from millstone.core.tokenise.words import fold_case


@dataclass(frozen=True)
class _Sets:
    """Which categories hold together: `members`, (sets, categories) bool, all different, the empty set first."""

    members: np.ndarray

    @classmethod
    def of(cls, rows: Sequence[np.ndarray]) -> tuple["_Sets", list[np.ndarray]]:
        """Unique rows of several (n, categories) bool arrays, and the index of each row among them."""
        first = np.zeros((1, rows[0].shape[1]), dtype=bool)
        every = np.concatenate([first, *rows])
        packed = np.ascontiguousarray(np.packbits(every, axis=1))
        _, at, number = np.unique(
            packed.view([("", np.void, packed.shape[1])]).ravel(), return_index=True, return_inverse=True
        )
        order = np.argsort(at, kind="stable")
        place = np.empty(len(order), dtype=np.int64)
        place[order] = np.arange(len(order))
        ends = np.cumsum([1, *map(len, rows)])
        return cls(every[at[order]]), [place[number[start:end]] for start, end in pairwise(ends.tolist())]


def word_table(matches: DictionaryMatches, names: Sequence[str]) -> Table:
    """The words of each group and how they were counted.

    Parameters
    ----------
    matches : DictionaryMatches
    names : sequence of str
        The categories to show.

    Returns
    -------
    Table
        ``group, term, freq`` and one column per category with 1 or 0: by group, the commonest first. A place of
        several words is a separate term; a word that is counted in different ways has a row for each. The
        freq of the rows with a 1 add up to the places of the category.
    """
    corpus = matches.corpus
    codes = group_codes(corpus.documents, corpus.groups)
    alone = np.zeros((len(corpus.forms), len(names)), dtype=bool)
    for column, name in enumerate(names):
        alone[matches.of_forms[name].start, column] = True
    tokens, phrases = _spans(matches, names)
    sets, (of_forms, of_tokens, of_phrases) = _Sets.of([alone, tokens.members, phrases.members])
    forms = [fold_case(form) for form in corpus.forms]
    parts = []
    for number in range(len(corpus.groups)):
        freq = column_sums(corpus.form_counts.rows(codes == number))
        here = codes[tokens.documents] == number
        freq -= np.bincount(tokens.all_forms[codes[tokens.all_documents] == number], minlength=len(freq))
        met = np.flatnonzero(freq)
        parts.append((number, [forms[form] for form in met.tolist()], of_forms[met], freq[met]))
        for found, texts in ((tokens, None), (phrases, phrases.texts)):
            here = codes[found.documents] == number
            words = [forms[form] for form in found.forms[here]] if texts is None else texts[here].tolist()
            which = (of_tokens if texts is None else of_phrases)[here]
            parts.append((number, words, which, np.ones(len(which), dtype=np.int64)))
    group = np.concatenate([np.full(len(words), number) for number, words, _, _ in parts])
    term = as_objects([word for _, words, _, _ in parts for word in words])
    which = np.concatenate([which for _, _, which, _ in parts])
    counted = np.concatenate([freq for _, _, _, freq in parts])
    row, first = distinct_rows([group, term, which])
    freq = np.zeros(len(first), dtype=np.int64)
    np.add.at(freq, row, counted)
    group, term, which = group[first], term[first], which[first]
    order = np.lexsort((which, term, -freq, group))
    members = sets.members[which[order]].astype(np.int8)
    columns = {"group": np.array(corpus.groups, dtype=object)[group[order]], "term": term[order], "freq": freq[order]}
    return Table(columns | {name: members[:, column] for column, name in enumerate(names)})


@dataclass(frozen=True)
class _Counted:
    """The counted matches: documents, forms or texts, and categories, a row each."""

    documents: np.ndarray
    forms: np.ndarray
    texts: np.ndarray
    members: np.ndarray
    all_documents: np.ndarray
    all_forms: np.ndarray


def _spans(matches: DictionaryMatches, names: Sequence[str]) -> tuple[_Counted, _Counted]:
    """The tokens of the spans that count by themselves, or that no place of several words covers; those places."""
    size = len(matches.spans)
    none = np.array([], dtype=np.int64)
    ids = matches.corpus.sequence[0][matches.spans] if size else none
    documents = matches.document_of_span if size else none
    alone, covered = np.zeros((size, len(names)), dtype=bool), np.zeros(size, dtype=bool)
    phrases: dict[tuple[int, int], list[int]] = {}
    for column, name in enumerate(names):
        places = matches.in_spans[name]
        single = places.length == 1
        alone[places.start[single], column] = True
        covered[places.tokens()[np.repeat(~single, places.length)]] = True
        for start, length in zip(places.start[~single].tolist(), places.length[~single].tolist(), strict=True):
            phrases.setdefault((start, length), []).append(column)
    which = np.flatnonzero(alone.any(axis=1) | ~covered)
    tokens = _Counted(documents[which], ids[which], none, alone[which], documents, ids)
    starts = np.array([start for start, _ in phrases], dtype=np.int64)
    members = np.zeros((len(phrases), len(names)), dtype=bool)
    for row, columns in enumerate(phrases.values()):
        members[row, columns] = True
    forms = matches.corpus.forms
    texts = [_joined([fold_case(forms[form]) for form in ids[start : start + length]]) for start, length in phrases]
    return tokens, _Counted(documents[starts], none, np.array(texts, dtype=object), members, none, none)


def _joined(words: Sequence[str]) -> str:
    """The words of a place as one term; marks of punctuation stand together."""
    return ("" if is_mark(words[0]) else " ").join(words)


def in_order(matches: DictionaryMatches, names: Sequence[str]) -> Table:
    """Every word of the texts in its order.

    Parameters
    ----------
    matches : DictionaryMatches
        From an ordered scan.
    names : sequence of str
        The categories that are looked for.

    Returns
    -------
    Table
        ``document, position, token, categories``: position from 1 within the document, the token as written
        after normalisation, and the categories that cover it, joined with ``; ``.
    """
    corpus = matches.corpus
    ids, starts, _ = corpus.sequence
    lengths = np.diff(starts)
    sets, of_token = category_sets(matches, names)
    together = np.array(["; ".join(np.array(names, dtype=object)[row]) for row in sets], dtype=object)
    documents = corpus.documents["document"]
    return Table(
        {
            "document": np.repeat(documents, lengths),
            "position": np.arange(len(ids)) - np.repeat(starts[:-1], lengths) + 1,
            "token": np.array(corpus.forms, dtype=object)[ids],
            "categories": together[of_token],
        }
    )


def category_sets(matches: DictionaryMatches, names: Sequence[str]) -> tuple[np.ndarray, np.ndarray]:
    """Which of the categories cover each token of the corpus.

    Parameters
    ----------
    matches : DictionaryMatches
        From an ordered scan.
    names : sequence of str
        The categories that are looked for.

    Returns
    -------
    sets : ndarray
        (sets, names) bool, the empty one first.
    of_token : ndarray
        (T,) the set of each token.
    """
    ids, _, _ = matches.corpus.sequence
    alone = np.zeros((len(matches.corpus.forms), len(names)), dtype=bool)
    within = np.zeros((len(matches.spans), len(names)), dtype=bool)
    for column, name in enumerate(names):
        alone[matches.of_forms[name].start, column] = True
        within[matches.in_spans[name].tokens(), column] = True
    sets, (of_forms, of_spans) = _Sets.of([alone, within])
    of_token = of_forms[ids]
    of_token[matches.spans] = of_spans
    return sets.members, of_token
