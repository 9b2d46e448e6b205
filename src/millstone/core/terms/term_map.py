"""From written forms to terms: each decision is taken once per different word."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import field, replace
from typing import overload

import numpy as np

from millstone.core.corpus.corpus import Corpus
from millstone.core.errors import DataError
from millstone.core.frozen import frozen
from millstone.core.settings.preparation import Preparation
from millstone.core.terms.stages import Stage, different, lowered_of, stages_of
from millstone.core.terms.word_lists import GIVEN, Entries, WordLists, folding
from millstone.core.terms.word_rules import idle_entries, left_out_by
from millstone.core.wording import listed, nearest_names

NO_TAG = "(none)"
"""The tag of a word that has none, where others have."""


@frozen
class TermMap:
    """Which term each of F forms counts as, or which rule left it out.

    Attributes
    ----------
    terms : ndarray of str
        (terms,) in code-point order.
    term_of : ndarray
        (F,) int32: the number of the form's term, or ``-1 - r`` when rule r left it out.
    rules : tuple of str
        The names of the rules, in the order they apply.
    stages : tuple of Stage
        After each rule that changes words, in order; the first is the case.
    idle : mapping
        Name of a list -> those of its entries that fit no word.
    """

    terms: np.ndarray
    term_of: np.ndarray
    rules: tuple[str, ...]
    stages: tuple[Stage, ...] = ()
    idle: Mapping[str, Sequence[str]] = field(default_factory=dict)

    @property
    def merged(self) -> bool:
        """Whether several words may count as one term, beyond their case."""
        return len(self.stages) > 1

    @property
    def words(self) -> tuple[Sequence[str], np.ndarray]:
        """The different names of forms, also those left out, and the number of the name of each form, (F,) int32."""
        values = self.stages[-1].values
        return (values.words, values.number) if isinstance(values, _Spread) else different(values)


def map_terms(corpus: Corpus, preparation: Preparation | None = None, lists: WordLists | None = None) -> TermMap:
    """Decide for each form of a corpus what it counts as.

    Parameters
    ----------
    corpus : Corpus
        F forms; an ordered scan where `lists` has lemmas that spare names.
    preparation : Preparation, optional
    lists : WordLists, optional
        A word is reported under the first stop list that has it.

    Returns
    -------
    TermMap

    Raises
    ------
    DataError
        When annotation is needed and there is none, or `pos` names a tag that does not occur.
    """
    preparation, lists = preparation or Preparation(), lists or WordLists()
    check_annotation(corpus, preparation)
    fold = folding(preparation.case)
    changing = bool(lists.lemmas or lists.stem or lists.merge or preparation.pos)
    changing |= not Entries(lists.spare, fold, as_typed=True).capitals.isdisjoint(corpus.forms)
    if preparation.case == "lower" and not changing:
        return _of_words(corpus, preparation, lists, fold)
    stages = stages_of(corpus, preparation, lists, fold)
    written, results = stages[0].values, stages[-1].values
    left_out, rules = left_out_by(corpus, preparation, lists, written, results)
    words, number = different(results)
    counted = np.zeros(len(words), dtype=bool)
    counted[number[left_out < 0]] = True
    return TermMap(
        terms=np.array(words, dtype=object)[counted],
        term_of=np.where(left_out < 0, np.cumsum(counted)[number] - 1, -1 - left_out).astype(np.int32),
        rules=rules,
        stages=tuple(stages),
        idle=idle_entries(lists, fold, written, results, stages[-2].values if lists.merge else results),
    )


class _Spread(Sequence[str]):
    """The word of each form, from the different words and the number that each form has."""

    def __init__(self, words: Sequence[str], number: np.ndarray) -> None:
        self.words, self.number = words, number

    def __len__(self) -> int:
        return len(self.number)

    @overload
    def __getitem__(self, which: int) -> str: ...
    @overload
    def __getitem__(self, which: slice) -> list[str]: ...
    def __getitem__(self, which: int | slice) -> str | list[str]:
        if isinstance(which, slice):
            return [self.words[number] for number in self.number[which].tolist()]
        return self.words[self.number[which]]


def _of_words(corpus: Corpus, preparation: Preparation, lists: WordLists, fold: Callable[[str], str]) -> TermMap:
    """The map where terms are the words in small letters: each is decided on once, whatever its forms."""
    lowered = lowered_of(corpus)
    words = lowered.words
    left_out, rules = left_out_by(corpus, preparation, lists, words, words)
    kept = left_out < 0
    term_of = np.where(kept, np.cumsum(kept) - 1, -1 - left_out).astype(np.int32)
    return TermMap(
        terms=np.array(words, dtype=object)[kept],
        term_of=term_of[lowered.number],
        rules=rules,
        stages=(Stage("case", _Spread(words, lowered.number)),),
        idle=idle_entries(lists, fold, words, words, words),
    )


def is_spared(lists: WordLists, words: Sequence[str], term_map: TermMap) -> bool:
    """Whether a rule of ``--spare`` holds for one of some words, under the case of a map."""
    fold = folding("lower" if term_map.stages[0].name == "case" else "keep")
    spared = Entries(lists.spare, fold, as_typed=True)
    return any(word in spared for word in words)


def by_tag(term_map: TermMap, corpus: Corpus) -> TermMap:
    """The map where the parts of speech of the kept forms are the terms.

    Raises
    ------
    DataError
        For texts without tags.
    """
    if not any(token.tag for token in corpus.annotation):
        raise DataError(
            "--count-tags needs annotated texts, and these are plain", "--tag en guesses the tags (de, nl too)"
        )
    tags, number = different([token.tag or NO_TAG for token in corpus.annotation])
    kept = term_map.term_of >= 0
    counted = np.zeros(len(tags), dtype=bool)
    counted[number[kept]] = True
    term_of = np.where(kept, np.cumsum(counted)[number] - 1, term_map.term_of).astype(np.int32)
    stages = (Stage("part of speech", [tags[one] for one in number.tolist()]),)
    return replace(term_map, terms=np.array(tags, dtype=object)[counted], term_of=term_of, stages=stages)


def check_annotation(corpus: Corpus, preparation: Preparation) -> None:
    """Raise DataError when tags or lemmas are asked for that the texts do not carry."""
    for option, asked in (("--pos", preparation.pos), ("--lemmas given", GIVEN in preparation.lemmas)):
        if asked and not corpus.annotation:
            raise DataError(
                f"{option} needs annotated texts, and these are plain",
                "--tag en guesses them (de, nl too); CoNLL-U files (.conllu) carry them; lemmas alone: --lemmas LANG",
            )
    present = {token.tag.casefold(): token.tag for token in corpus.annotation if token.tag}
    unknown = [tag for tag in preparation.pos if tag.casefold() not in present]
    if unknown:
        raise DataError(
            f"--pos: no token has the tag {listed(unknown)}",
            f"the tags are {nearest_names(unknown[0], sorted(present.values()))}",
        )


def left_out_tokens(term_map: TermMap, form_totals: np.ndarray) -> Mapping[str, int]:
    """Tokens each rule left out; `form_totals` is (F,), the occurrences of each form."""
    found: dict[str, int] = {}
    for number, rule in enumerate(term_map.rules):
        tokens = int(form_totals[term_map.term_of == -1 - number].sum())
        if tokens:
            found[rule] = found.get(rule, 0) + tokens
    return found
