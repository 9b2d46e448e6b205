"""The notes of all guards on what a step has read."""

from typing import Any

from millstone.analyses.base.guards.beginning import seen_at_the_beginning
from millstone.analyses.base.guards.commonest import GroupWords, commonest_words
from millstone.analyses.base.guards.language import other_language
from millstone.analyses.base.guards.tokenised import tokenised_before
from millstone.analyses.base.step import Step
from millstone.core.corpus.corpus import Corpus
from millstone.core.settings.preparation import Preparation
from millstone.texts.scanned_texts import ScannedTexts


def guard_notes(step: Step[Any], material: ScannedTexts) -> list[str]:
    """Notes on what may be mistaken about the texts of a step, with the option to type.

    Frequency lists are left alone: they may be cut, and their words were prepared before.
    """
    corpus = material.corpus
    if material.lists is not None or not len(corpus.forms):
        return []
    return [*notes_on_words(step.preparation, corpus), *seen_at_the_beginning(step, material)]


def notes_on_words(preparation: Preparation, corpus: Corpus, words: GroupWords | None = None) -> list[str]:
    """Notes on lists of another language, and on tokens that were parted before.

    Parameters
    ----------
    preparation : Preparation
    corpus : Corpus
    words : mapping, optional
        The commonest words of each group, where they are known.
    """
    names_language = bool(preparation.stop or preparation.lemmas or preparation.stem)
    is_raw = preparation.tokens == "words" and not corpus.annotation
    if not (names_language or is_raw):
        return []
    words = commonest_words(corpus) if words is None else words
    notes = other_language(preparation, words) if names_language else []
    if is_raw and (parted := tokenised_before(words)):
        notes.append(parted)
    return notes
