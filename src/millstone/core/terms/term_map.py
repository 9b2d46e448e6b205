"""From written forms to terms: each decision is taken once per different word."""

import re
from collections.abc import Callable, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass, field
from itertools import chain, compress, islice
from operator import lt, ne
from typing import overload

import numpy as np

from millstone.core.cells import column_sums
from millstone.core.corpus.corpus import Corpus, Lowered
from millstone.core.errors import DataError
from millstone.core.settings.preparation import Preparation
from millstone.core.terms.word_lists import (
    GIVEN,
    UNSURE,
    Entries,
    Lemmas,
    WordList,
    WordLists,
    as_word,
    entry_tokens,
    fold_case,
    folding,
    is_in_capitals,
    is_pattern,
)
from millstone.core.tokenise.words import normalise
from millstone.core.wildcards import wildcard_test
from millstone.core.wording import listed, nearest_names

_AT_ONCE = 1 << 16
NO_PRONOUN = "in capitals, so no pronoun"
"""Where the lemma of a form in capitals comes from that would be a pronoun's in small letters."""
_LETTER = re.compile(r"[^\W\d_]")


@dataclass(frozen=True)
class Stage:
    """What a rule made of each form: `values`, (F,), and which of its `sources` did so, if it says."""

    name: str
    values: Sequence[str]
    sources: Sequence[str] = ()


@dataclass(frozen=True)
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
    stages = _stages(corpus, preparation, lists, fold)
    written, results = stages[0].values, stages[-1].values
    left_out, rules = _left_out(corpus, preparation, lists, written, results)
    words, number = different(results)
    counted = np.zeros(len(words), dtype=bool)
    counted[number[left_out < 0]] = True
    return TermMap(
        terms=np.array(words, dtype=object)[counted],
        term_of=np.where(left_out < 0, np.cumsum(counted)[number] - 1, -1 - left_out).astype(np.int32),
        rules=rules,
        stages=tuple(stages),
        idle=_idle(lists, fold, written, results, stages[-2].values if lists.merge else results),
    )


class _Spread(Sequence[str]):
    """The word of each form, from the different words and the number that each form has."""

    def __init__(self, words: Sequence[str], number: np.ndarray) -> None:
        self._words, self._number = words, number

    def __len__(self) -> int:
        return len(self._number)

    @overload
    def __getitem__(self, which: int) -> str: ...
    @overload
    def __getitem__(self, which: slice) -> list[str]: ...
    def __getitem__(self, which: int | slice) -> str | list[str]:
        if isinstance(which, slice):
            return [self._words[number] for number in self._number[which].tolist()]
        return self._words[self._number[which]]


def _of_words(corpus: Corpus, preparation: Preparation, lists: WordLists, fold: Callable[[str], str]) -> TermMap:
    """The map where terms are the words in small letters: each is decided on once, whatever its forms."""
    lowered = lowered_of(corpus)
    words = lowered.words
    left_out, rules = _left_out(corpus, preparation, lists, words, words)
    kept = left_out < 0
    term_of = np.where(kept, np.cumsum(kept) - 1, -1 - left_out).astype(np.int32)
    return TermMap(
        terms=np.array(words, dtype=object)[kept],
        term_of=term_of[lowered.number],
        rules=rules,
        stages=(Stage("case", _Spread(words, lowered.number)),),
        idle=_idle(lists, fold, words, words, words),
    )


def lowered_of(corpus: Corpus) -> Lowered:
    """The words of a corpus in small letters."""
    if corpus.lowered is not None:
        return corpus.lowered
    return Lowered(*different(_folded(corpus.forms, fold_case)))


def different(words: Sequence[str]) -> tuple[list[str], np.ndarray]:
    """The different ones of some words, in code-point order, and the number of each word among them, int32.

    Meant for words that are nearly in order, which are sorted far faster than a dict is made.
    """
    if all(map(lt, words, islice(words, 1, None))):
        return list(words), np.arange(len(words), dtype=np.int32)
    order = sorted(range(len(words)), key=words.__getitem__)
    ordered = [words[number] for number in order]
    is_first = np.fromiter(map(ne, ordered, chain([None], ordered)), dtype=bool, count=len(ordered))
    number_of = np.empty(len(words), dtype=np.int32)
    number_of[order] = np.cumsum(is_first) - 1
    return list(compress(ordered, is_first.tolist())), number_of


def _folded(forms: Sequence[str], fold: Callable[[str], str]) -> list[str]:
    found: list[str] = []
    for at in range(0, len(forms), _AT_ONCE):
        some = forms[at : at + _AT_ONCE]
        # words hold no line feed, and neither case nor normalisation looks past one
        together = "\n".join(some)
        folded = fold(together)
        # what does not change need not be kept twice
        if folded == together:
            found += some
        else:
            found += [form if form == word else word for form, word in zip(some, folded.split("\n"), strict=True)]
    return found


def _left_out(
    corpus: Corpus, preparation: Preparation, lists: WordLists, written: Sequence[str], results: Sequence[str]
) -> tuple[np.ndarray, tuple[str, ...]]:
    """(words,) the number of the first rule that leaves each word out, -1 for none; and the names of all rules."""
    fold = folding(preparation.case)
    rules = list(_rules(corpus, preparation, lists, fold, written, results))
    left_out = np.full(len(results), -1, dtype=np.int32)
    for rule, (_, unwanted) in reversed(list(enumerate(rules))):
        left_out[unwanted] = rule
    if lists.spare:
        left_out[_among(Entries(lists.spare, fold, as_typed=True), written, results)] = -1
    return left_out, tuple(name for name, _ in rules)


def _stages(corpus: Corpus, preparation: Preparation, lists: WordLists, fold: Callable[[str], str]) -> list[Stage]:
    """The values of all forms after each rule that changes words."""
    spared = Entries(lists.spare, fold, as_typed=True)
    written = _folded(corpus.forms, fold)
    if spared.capitals:
        written = [f if f in spared.capitals else w for f, w in zip(corpus.forms, written, strict=True)]
    stages = [Stage("case" if preparation.case == "lower" else "as written", written)]
    totals = column_sums(corpus.form_counts)
    if lists.lemmas:
        lemmas, sources = _lemmas(corpus, lists.lemmas, totals)
        three = zip(corpus.forms, written, lemmas, strict=True)
        # most forms are their own lemma, and folded already
        values = [w if m == form or w in spared else fold(m) for form, w, m in three]
        stages.append(Stage("lemma", values, sources))
    if lists.stem:
        stages.append(Stage("stem", _shown_stems(written, lists.stem, totals, spared)))
    if lists.merge:
        # words are matched in any case; where case says nothing, the name of a merge has none either
        merge = {as_word(term): fold(name) for term, name in lists.merge.items()}
        before = stages[-1].values
        both = ((w, fold_case(w), b, fold_case(b)) for w, b in zip(written, before, strict=True))
        values = [w if w in spared else merge.get(v, merge.get(c, b)) for w, v, b, c in both]
        stages.append(Stage("merge", values))
    return stages


def _lemmas(corpus: Corpus, sources: Sequence[Lemmas], totals: np.ndarray) -> tuple[list[str], list[str]]:
    """The lemma of each form, and the name of the source that knew it."""
    is_name = names_in(corpus, totals) if any(source.spare_names for source in sources) else None
    found, known_by = [], []
    present: set[str] = set()
    for number, form in enumerate(corpus.forms):
        lemma: str | None = None
        for source in sources:
            if source.name == GIVEN:
                lemma = corpus.annotation[number].lemma or None
            elif is_in_capitals(form) and form.lower() in source.pronouns:
                lemma = form
            elif not (source.spare_names and is_name is not None and is_name[number]):
                lemma = source.lemma_of(form)
                if lemma and lemma.startswith(UNSURE):
                    present = present or set(_folded(corpus.forms, fold_case))
                    lemma = next((one for one in lemma[1:].split() if fold_case(one) in present), form)
            if lemma:
                break
        found.append(lemma or form)
        capitals = is_in_capitals(form) and form.lower() in source.pronouns
        known_by.append(NO_PRONOUN if capitals else f"lemmas {source.name}" if lemma else "")
    return found, known_by


def names_in(corpus: Corpus, totals: np.ndarray) -> np.ndarray:
    """(F,) bool: the forms that look like names.

    They begin with a capital, not all of their letters are capitals, and they stand within sentences
    more often than the same word in small letters stands anywhere.
    """
    ids, starts, breaks = corpus.sequence
    opening = np.zeros(len(ids) + 1, dtype=bool)
    opening[breaks] = opening[starts] = True
    inside = np.bincount(ids[~opening[:-1]], minlength=len(corpus.forms))
    total = dict(zip(corpus.forms, totals.tolist(), strict=True))
    return np.array(
        [
            form[0].isupper() and not form.isupper() and int(inside[number]) > total.get(form.lower(), 0)
            for number, form in enumerate(corpus.forms)
        ],
        dtype=bool,
    )


def _shown_stems(
    written: Sequence[str], stem_of: Callable[[str], str], totals: np.ndarray, spared: Entries
) -> list[str]:
    """Each word as the commonest word of its stem; among equally common ones the first in code-point order."""
    common: dict[str, int] = {}
    for word, total in zip(written, totals.tolist(), strict=True):
        common[word] = common.get(word, 0) + total
    stems = {word: word if word in spared else stem_of(word) for word in common}
    shown: dict[str, str] = {}
    for word in sorted(common, key=lambda one: (-common[one], one)):
        shown.setdefault(stems[word], word)
    return [word if word in spared else shown[stems[word]] for word in written]


def _rules(
    corpus: Corpus,
    preparation: Preparation,
    lists: WordLists,
    fold: Callable[[str], str],
    written: Sequence[str],
    results: Sequence[str],
) -> Iterator[tuple[str, np.ndarray]]:
    """The rules that leave words out: the name of each, and (words,) bool, which ones."""
    if preparation.pos:
        tags = {tag.casefold() for tag in preparation.pos}
        yield (
            "part of speech",
            np.array([token.tag.casefold() not in tags for token in corpus.annotation], dtype=bool),
        )
    if preparation.numbers == "drop":
        yield "numbers", np.array([_LETTER.search(word) is None for word in results], dtype=bool)
    for pattern in preparation.drop:
        yield f"drop {pattern}", _among(Entries(WordList("", [pattern]), fold), written, results)
    for stop_list in lists.stop:
        yield stop_list.rule, _among(Entries(stop_list, fold), written, results)
    if preparation.length != (0, None):
        least, most = preparation.length
        size = np.fromiter(map(len, results), dtype=np.int64, count=len(results))
        yield "length", (size < least) | (size > (most if most is not None else size))
    if lists.only:
        yield "not among --only", ~_among(Entries(lists.only, fold), written, results)


def _among(entries: Entries, written: Sequence[str], results: Sequence[str]) -> np.ndarray:
    """(words,) bool: whether the written form or the resulting term is among the entries."""
    found = entries.among(results)
    return found if written is results else found | entries.among(written)


def _idle(
    lists: WordLists,
    fold: Callable[[str], str],
    written: Sequence[str],
    results: Sequence[str],
    before: Sequence[str],
) -> dict[str, list[str]]:
    """The entries of the user's own lists that fit no word; `before` are the words before they were merged.

    Entries of stop lists of several words are noted elsewhere.
    """
    found = {}
    own = [one for one in (*lists.stop, lists.only, lists.spare) if one is not None and not one.shipped]
    known = {*written, *results} if own else set()
    for word_list in own:
        apart = Entries(word_list, fold, as_typed=word_list is lists.spare).capitals
        of_words = word_list in lists.stop
        missing = [
            entry
            for entry in word_list.entries
            if (is_pattern(entry) or len(entry_tokens(entry)) == 1 or not of_words)
            and not (entry in known if entry in apart else _fits_any(entry, fold, known))
        ]
        if missing:
            found[word_list.name] = missing
    if lists.merge:
        mergeable = {*map(fold_case, written), *map(fold_case, before)}
        missing = [term for term in lists.merge if as_word(term) not in mergeable]
        if missing:
            found["--merge"] = missing
    return found


def _fits_any(entry: str, fold: Callable[[str], str], known: Set[str]) -> bool:
    if is_pattern(entry):
        return any(map(wildcard_test(fold(normalise(entry))), known))
    return " ".join(map(fold, entry_tokens(entry))) in known


def is_spared(lists: WordLists, words: Sequence[str], term_map: TermMap) -> bool:
    """Whether a rule of ``--spare`` holds for one of some words, under the case of a map."""
    fold = folding("lower" if term_map.stages[0].name == "case" else "keep")
    spared = Entries(lists.spare, fold, as_typed=True)
    return any(word in spared for word in words)


def check_annotation(corpus: Corpus, preparation: Preparation) -> None:
    """Raise DataError when tags or lemmas are asked for that the texts do not carry."""
    for option, asked in (("--pos", preparation.pos), ("--lemmas given", GIVEN in preparation.lemmas)):
        if asked and not corpus.annotation:
            raise DataError(
                f"{option} needs annotated texts, and these are plain",
                "CoNLL-U files (.conllu) carry lemmas and parts of speech; for plain texts there is --lemmas LANG",
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
