"""What rules make of each written form: its case, its lemma or stem, the name it is merged under."""

from collections.abc import Callable, Sequence
from itertools import chain, compress, islice
from operator import lt, ne

import numpy as np

from millstone.core.cells import column_sums
from millstone.core.corpus.corpus import Corpus, Lowered
from millstone.core.frozen import frozen
from millstone.core.settings.preparation import Preparation
from millstone.core.terms.word_lists import (
    GIVEN,
    UNSURE,
    Entries,
    Lemmas,
    WordLists,
    as_word,
    fold_case,
    is_in_capitals,
)

AT_ONCE = 1 << 16
"""So many forms are put into small letters together."""
NO_PRONOUN = "in capitals, so no pronoun"
"""Where the lemma of a form in capitals comes from that would be a pronoun's in small letters."""


@frozen
class Stage:
    """What a rule made of each form: `values`, (F,), and which of its `sources` did so, if it says."""

    name: str
    values: Sequence[str]
    sources: Sequence[str] = ()


def stages_of(corpus: Corpus, preparation: Preparation, lists: WordLists, fold: Callable[[str], str]) -> list[Stage]:
    """The values of all forms after each rule that changes words."""
    spared = Entries(lists.spare, fold, as_typed=True)
    written = folded(corpus.forms, fold)
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
    spares = any(source.spare_names for source in sources)
    is_name = names_in(corpus, totals).tolist() if spares else [False] * len(corpus.forms)
    found, known_by = [], []
    present: set[str] = set()
    for number, form in enumerate(corpus.forms):
        lemma: str | None = None
        small = form.lower() if is_in_capitals(form) else ""
        for source in sources:
            if source.name == GIVEN:
                lemma = corpus.annotation[number].lemma or None
            elif small and small in source.pronouns:
                lemma = form
            elif not (source.spare_names and is_name[number]):
                lemma = source.lemma_of(form)
                if lemma and lemma.startswith(UNSURE):
                    present = present or set(folded(corpus.forms, fold_case))
                    lemma = next((one for one in lemma[1:].split() if fold_case(one) in present), form)
            if lemma:
                break
        found.append(lemma or form)
        known_by.append(
            NO_PRONOUN if small and small in source.pronouns else f"lemmas {source.name}" if lemma else ""
        )
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


def lowered_of(corpus: Corpus) -> Lowered:
    """The words of a corpus in small letters."""
    if corpus.lowered is not None:
        return corpus.lowered
    return Lowered(*different(folded(corpus.forms, fold_case)))


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


def folded(forms: Sequence[str], fold: Callable[[str], str]) -> list[str]:
    """Many forms folded at once."""
    found: list[str] = []
    for at in range(0, len(forms), AT_ONCE):
        some = forms[at : at + AT_ONCE]
        # words hold no line feed, and neither case nor normalisation looks past one
        together = "\n".join(some)
        folded = fold(together)
        # what does not change need not be kept twice
        if folded == together:
            found += some
        else:
            found += [form if form == word else word for form, word in zip(some, folded.split("\n"), strict=True)]
    return found
