"""From written forms to terms: each decision is taken once per different word."""

from collections.abc import Mapping, Sequence
from dataclasses import field, replace

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import listed, nearest_names
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.form_words import FormWords
from millstone.core.settings.preparation import GIVEN, Preparation
from millstone.core.terms.lemmas import FoundLemmas
from millstone.core.terms.stages import Stage, stages_of
from millstone.core.terms.word_lists import Entries, WordLists, folding
from millstone.core.terms.word_rules import idle_entries, left_out_by

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


def map_terms(
    corpus: Corpus,
    preparation: Preparation | None = None,
    lists: WordLists | None = None,
    lemmas: FoundLemmas | None = None,
) -> TermMap:
    """Decide for each form of a corpus what it counts as.

    Parameters
    ----------
    corpus : Corpus
        F forms; an ordered scan where `lists` has lemmas that spare names.
    preparation : Preparation, optional
    lists : WordLists, optional
        A word is reported under the first stop list that has it.
    lemmas : FoundLemmas, optional
        What the sources of lemmas in `lists` say of these forms, where it is known already.

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
    stages = stages_of(corpus, preparation, lists, fold, lemmas)
    written, results = stages[0].values, stages[-1].values
    left_out, rules = left_out_by(corpus, preparation, lists, written, results)
    terms, term_of = _numbered(results, left_out < 0, -1 - left_out)
    return TermMap(
        terms=terms,
        term_of=term_of,
        rules=rules,
        stages=tuple(stages),
        idle=idle_entries(lists, fold, written, results, stages[-2].values if lists.merge else results),
    )


def _numbered(results: FormWords, kept: np.ndarray, otherwise: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The words of the kept forms, and (F,) int32 the number of each form's word among them, or what it has else."""
    counted = np.zeros(len(results.words), dtype=bool)
    counted[results.number[kept]] = True
    place = (np.cumsum(counted) - 1)[results.number]
    return np.array(results.words, dtype=object)[counted], np.where(kept, place, otherwise).astype(np.int32)


def is_spared(lists: WordLists, words: Sequence[str], term_map: TermMap) -> bool:
    """Whether a rule of ``--spare`` holds for one of some words, under the case of a map.

    Parameters
    ----------
    lists : WordLists
        Word lists, as they were read.
    words : sequence of str
        The words of an n-gram, or one.
    term_map : TermMap

    Returns
    -------
    bool
    """
    fold = folding("lower" if term_map.stages[0].name == "case" else "keep")
    spared = Entries(lists.spare, fold, as_typed=True)
    return any(word in spared for word in words)


def by_tag(term_map: TermMap, corpus: Corpus) -> TermMap:
    """The map where the parts of speech of the kept forms are the terms.

    Parameters
    ----------
    term_map : TermMap
    corpus : Corpus

    Returns
    -------
    TermMap

    Raises
    ------
    DataError
        For texts without tags.
    """
    if not any(token.tag for token in corpus.annotation):
        raise DataError(
            "--count-tags needs annotated texts, and these are plain", "--tag en guesses the tags (de, nl too)"
        )
    tags = FormWords.of([token.tag or NO_TAG for token in corpus.annotation])
    terms, term_of = _numbered(tags, term_map.term_of >= 0, term_map.term_of)
    return replace(term_map, terms=terms, term_of=term_of, stages=(Stage("part of speech", tags),))


def check_annotation(corpus: Corpus, preparation: Preparation) -> None:
    """Raise DataError when tags or lemmas are asked for that the texts do not carry.

    Parameters
    ----------
    corpus : Corpus
    preparation : Preparation

    Raises
    ------
    DataError
        When a file does not hold what is needed.
    """
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
    """Tokens each rule left out; `form_totals` is (F,), the occurrences of each form.

    Parameters
    ----------
    term_map : TermMap
    form_totals : ndarray

    Returns
    -------
    mapping of str to int
        Rule -> tokens.
    """
    found: dict[str, int] = {}
    for number, rule in enumerate(term_map.rules):
        tokens = int(form_totals[term_map.term_of == -1 - number].sum())
        if tokens:
            found[rule] = found.get(rule, 0) + tokens
    return found
