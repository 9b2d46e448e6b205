"""Stages of the term map: case, lemma or stem, and merging of each written form."""

from collections.abc import Callable, Sequence

import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.form_words import FormWords, folded, joined
from millstone.core.matrix.totals import column_sums
from millstone.core.settings.preparation import Preparation
from millstone.core.terms.lemmas import FoundLemmas, find_lemmas
from millstone.core.terms.word_lists import Entries, WordLists, as_word
from millstone.core.tokenise.words import fold_case


@frozen
class Stage:
    """The outcome of a rule for each form: `values`, (F,), and which of its `sources` did so, if it says."""

    name: str
    values: FormWords
    sources: Sequence[str] = ()


def stages_of(
    corpus: Corpus,
    preparation: Preparation,
    lists: WordLists,
    fold: Callable[[str], str],
    lemmas: FoundLemmas | None = None,
) -> list[Stage]:
    """The values of all forms after each rule that changes words; `lemmas` where they are known already.

    Parameters
    ----------
    corpus : Corpus
    preparation : Preparation
    lists : WordLists
        Word lists, as they were read.
    fold : Callable[[str], str]
        The rule for case.
    lemmas : FoundLemmas, optional

    Returns
    -------
    list of Stage
        In the order of the rules.
    """
    spared = Entries(lists.spare, fold, as_typed=True)
    written = _written(corpus, preparation, spared)
    stages = [Stage("case" if preparation.case == "lower" else "as written", written)]
    if lists.lemmas:
        found = lemmas or find_lemmas(corpus, lists.lemmas)
        number = np.where(written.map_words(spared.among), np.int32(-1), found.number)
        stages.append(Stage("lemma", written.override(folded(found.words, fold), number), found.sources))
    if lists.stem:
        stages.append(Stage("stem", _shown_stems(written, lists.stem, column_sums(corpus.form_counts), spared)))
    if lists.merge:
        # words are matched in any case; where case says nothing, the name of a merge has none either
        merge = {as_word(term): fold(name) for term, name in lists.merge.items()}

        def merged(word: str, before: str) -> str:
            if word in spared:
                return word
            return merge.get(fold_case(word), merge.get(fold_case(before), before))

        stages.append(Stage("merge", joined(written, stages[-1].values, merged)))
    return stages


def _written(corpus: Corpus, preparation: Preparation, spared: Entries) -> FormWords:
    """The forms in their case; those that are spared as typed in capitals keep theirs."""
    written = corpus.lowered if preparation.case == "lower" else FormWords.of(corpus.forms)
    if spared.capitals:
        return FormWords.of([f if f in spared.capitals else w for f, w in zip(corpus.forms, written, strict=True)])
    return written


def _shown_stems(written: FormWords, stem_of: Callable[[str], str], totals: np.ndarray, spared: Entries) -> FormWords:
    """Each word as the commonest word of its stem; among equally common ones the first in code-point order."""
    words = written.words
    common = np.bincount(written.number, weights=totals, minlength=len(words))
    stems = [word if word in spared else stem_of(word) for word in words]
    shown: dict[str, str] = {}
    for number in np.argsort(-common, kind="stable").tolist():
        shown.setdefault(stems[number], words[number])
    return written.renamed([word if word in spared else shown[stem] for word, stem in zip(words, stems, strict=True)])
