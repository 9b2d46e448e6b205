"""The notes of all guards on what a step has read."""

from typing import Any

from millstone.analyses.base.guards.beginning import seen_at_the_beginning
from millstone.analyses.base.guards.commonest import commonest_words
from millstone.analyses.base.guards.language import other_language
from millstone.analyses.base.guards.tokenised import tokenised_before
from millstone.analyses.base.step import Step
from millstone.texts.scanned_texts import ScannedTexts


def guard_notes(step: Step[Any], material: ScannedTexts) -> list[str]:
    """Notes on what may be mistaken about the texts of a step, with the option to type.

    Frequency lists are left alone: they may be cut, and their words were prepared before.
    """
    if material.lists is not None or not len(material.corpus.forms):
        return []
    preparation = step.preparation
    names_language = preparation.stop or preparation.lemmas or preparation.stem
    is_raw = preparation.tokens == "words" and not material.corpus.annotation
    notes = []
    if names_language or is_raw:
        words = commonest_words(material.corpus)
        notes += other_language(preparation, words) if names_language else []
        if is_raw and (parted := tokenised_before(words)):
            notes.append(parted)
    return [*notes, *seen_at_the_beginning(step, material)]
