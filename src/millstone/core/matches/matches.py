"""Where expressions occur in a scanned corpus, and what lies around their places."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np

from millstone.core.base.arrays import begins, unique
from millstone.core.corpus.corpus import Corpus
from millstone.core.dictionary.overlaps import leftmost
from millstone.core.dictionary.vocabulary import Vocabulary
from millstone.core.matches.expressions import Expression
from millstone.core.matrix.totals import column_sums
from millstone.core.tokenise.words import fold_case

_NONE = np.array([], dtype=np.int64)
_FEW = 4


@dataclass(frozen=True)
class Matches:
    """P places in the row of tokens: first token and number of tokens, (P,) int64; ascending, none overlapping."""

    start: np.ndarray
    length: np.ndarray

    def __len__(self) -> int:
        return len(self.start)

    @property
    def end(self) -> np.ndarray:
        """(P,) the token after the last of each place."""
        found: np.ndarray = self.start + self.length
        return found

    def at(self, which: np.ndarray) -> "Matches":
        """Some of them."""
        return Matches(self.start[which], self.length[which])


class NamedWords:
    """The forms of a corpus as a pattern sees them: as written, and under the name that preparation gives them.

    Parameters
    ----------
    corpus : Corpus
    names : sequence of str
        (F,) what each form counts as, also where a rule leaves it out.
    case : bool
        Patterns fit as written; otherwise case-blind.
    """

    def __init__(self, corpus: Corpus, names: Sequence[str] = (), case: bool = False) -> None:
        self._case = case
        self._written = Vocabulary(corpus.forms, lowered=None if case else corpus.lowered)
        other = [name if name != form else "" for name, form in zip(names, corpus.forms, strict=bool(names))]
        self._named = Vocabulary(other) if any(other) else None
        self.has_names_of_several_words = any(" " in name for name in other)

    def matches(self, pattern: str) -> np.ndarray:
        """Numbers of the forms that a word of an expression fits, int64, ascending."""
        pattern = pattern if self._case else fold_case(pattern)
        found = self._written.matches(pattern, self._case)
        if self._named is None:
            return found
        return np.union1d(found, self._named.matches(pattern, self._case))

    def named(self, name: str) -> np.ndarray:
        """The forms that count as a term of several words."""
        if self._named is None:
            return _NONE
        return self._named.matches(name if self._case else fold_case(name), self._case)


def find_expression(corpus: Corpus, expression: Expression, words: NamedWords, gap: int = 0) -> Matches:
    """The places of an expression: most of its words win, then fewest words between them, then the leftmost.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    expression : Expression
    words : NamedWords
        Of this corpus.
    gap : int
        How many other words may come between two words of a row, within the sentence.

    Returns
    -------
    Matches
        (P,) in the order of the texts.
    """
    found: dict[int, list[tuple[np.ndarray, np.ndarray]]] = {}
    for row in expression.rows:
        found.setdefault(len(row), []).append(_candidates(corpus, [words.matches(word) for word in row], gap))
        if len(row) > 1 and words.has_names_of_several_words:
            found.setdefault(1, []).append(_candidates(corpus, [words.named(" ".join(row))], 0))
    return _without_overlaps(found)


def _candidates(corpus: Corpus, forms: Sequence[np.ndarray], gap: int) -> tuple[np.ndarray, np.ndarray]:
    """Where words follow each other, at most `gap` others between two: first tokens and last tokens."""
    ids, _, breaks = corpus.sequence
    if any(not len(of_word) for of_word in forms):
        return _NONE, _NONE
    masks = [np.zeros(len(corpus.forms), dtype=bool) for _ in forms]
    for mask, of_word in zip(masks, forms, strict=True):
        mask[of_word] = True
    if not gap:
        rarest = _rarest(corpus, forms)
        start = _positions(ids, forms[rarest], masks[rarest]) - rarest
        start = start[(start >= 0) & (start + len(forms) <= len(ids))]
        for number, mask in enumerate(masks):
            if number != rarest:
                start = start[mask[ids[start + number]]]
        last = start + len(forms) - 1
        return _in_one_sentence(start, last, breaks)
    start = last = _positions(ids, forms[0], masks[0])
    for mask in masks[1:]:
        pairs = [(start[here], last[here] + step) for step in range(1, gap + 2) for here in [last + step < len(ids)]]
        start, last = (np.concatenate([pair[side] for pair in pairs]) for side in (0, 1))
        fits = mask[ids[last]]
        start, last = _in_one_sentence(start[fits], last[fits], breaks)
        # several ways lead to the same two ends
        both = unique(start * len(ids) + last)
        start, last = both // len(ids), both % len(ids)
    return start, last


def _rarest(corpus: Corpus, forms: Sequence[np.ndarray]) -> int:
    """Which of several words has fewest places."""
    if len(forms) == 1:
        return 0
    freq = column_sums(corpus.form_counts)
    return min(range(len(forms)), key=lambda number: freq[forms[number]].sum())


def _positions(ids: np.ndarray, forms: np.ndarray, mask: np.ndarray) -> np.ndarray:
    """Where one of the `forms` stands, which `mask` distinguishes from the others; a few are compared one by one."""
    if len(forms) > _FEW:
        return np.flatnonzero(mask[ids])
    return np.sort(np.concatenate([np.flatnonzero(ids == form) for form in forms.tolist()]))


def _in_one_sentence(start: np.ndarray, last: np.ndarray, breaks: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    sentence = np.searchsorted(breaks, np.stack((start, last)), side="right")
    here = sentence[0] == sentence[1]
    return start[here], last[here]


def _without_overlaps(found: dict[int, list[tuple[np.ndarray, np.ndarray]]]) -> Matches:
    """The places that win: `found` has the number of words of a row -> first and last tokens."""
    won = Matches(_NONE, _NONE)
    for words in sorted(found, reverse=True):
        start = np.concatenate([one for one, _ in found[words]])
        length = np.concatenate([last - one + 1 for one, last in found[words]])
        for several in np.flatnonzero(np.bincount(length)).tolist():
            here = np.sort(start[length == several])
            here = here[begins(here)]
            free = np.searchsorted(won.end, here, "right") == np.searchsorted(won.start, here + several, "left")
            here = here[free]
            here = here[leftmost(here, several)]
            both = np.concatenate((won.start, here)), np.concatenate((won.length, np.full(len(here), several)))
            won = Matches(*both).at(np.argsort(both[0]))
    return won


def reach(
    corpus: Corpus, places: Matches, span: tuple[int, int], within: str = "document"
) -> tuple[np.ndarray, np.ndarray]:
    """(P,) the first token that lies near each place, and the token after the last one.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    places : Matches
    span : tuple of int
        How many tokens to the left and to the right.
    within : str
        ``sentence`` or ``document``, at whose end a span ends.

    Returns
    -------
    tuple[ndarray, ndarray]
        Each (P,) int64.
    """
    _, starts, breaks = corpus.sequence
    bounds = breaks if within == "sentence" else starts
    bounds = bounds[begins(bounds)]
    lower = bounds[np.searchsorted(bounds, places.start, side="right") - 1] if len(places) else _NONE
    upper = bounds[np.searchsorted(bounds, places.end, side="left")] if len(places) else _NONE
    return np.maximum(places.start - span[0], lower), np.minimum(places.end + span[1], upper)


def has_near(left: np.ndarray, right: np.ndarray, places: Matches, others: Matches) -> np.ndarray:
    """(P,) bool: whether one of the others lies wholly on one side of a place, from `left` to `right` around it.

    Parameters
    ----------
    left : ndarray
        (P,) the first token that is near.
    right : ndarray
        (P,) the token after the last one that is near.
    places : Matches
        (P,) matches.
    others : Matches
        Matches of another expression.

    Returns
    -------
    ndarray
    """
    before = np.searchsorted(others.start, left, side="left") < np.searchsorted(
        others.end, places.start, side="right"
    )
    after = np.searchsorted(others.start, places.end, side="left") < np.searchsorted(others.end, right, side="right")
    return np.asarray(before | after)


def has_tag(corpus: Corpus, places: Matches, tags: Collection[str]) -> np.ndarray:
    """(P,) bool: whether the last word of a place has one of the `tags`, in small letters.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    places : Matches
        (P,) matches.
    tags : collection of str
        Parts of speech, in small letters.

    Returns
    -------
    ndarray
    """
    ids, _, _ = corpus.sequence
    wanted = np.array([token.tag.casefold() in tags for token in corpus.annotation], dtype=bool)
    return wanted[ids[places.end - 1]] if len(wanted) else np.zeros(len(places), dtype=bool)


def documents_of(corpus: Corpus, places: Matches) -> np.ndarray:
    """(P,) the number of the document of each place.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    places : Matches
        (P,) matches.

    Returns
    -------
    ndarray
        int64.
    """
    _, starts, _ = corpus.sequence
    return np.searchsorted(starts, places.start, side="right") - 1
