"""The texts of a step near an expression only (``--around``)."""

from dataclasses import replace
from typing import Any

import numpy as np

from millstone.analyses.base.analysis import analysis_of
from millstone.analyses.base.matches.nodes import expression_of, found_expressions, term_map_of, words_of
from millstone.analyses.base.step import Step
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import listed, numbered
from millstone.core.corpus.corpus import Corpus
from millstone.core.matches.surroundings import near_tokens, only_near
from millstone.texts.scanned_texts import ScannedTexts


def check_around(step: Step[Any]) -> None:
    """Raise UsageError for an expression that cannot be read, or a step that --around does not suit."""
    for typed in step.preparation.around:
        expression_of(step, typed, "--around")
    if not any(step.preparation.around_span):
        raise UsageError("--around-span 0: nothing is near", "type numbers of words, such as --around-span 5,5")
    if analysis_of(step).reads_running_text:
        raise UsageError(
            f"--around: {step.command.name} shows texts as they stand", "type --near EXPRESSION in its place"
        )


def around(step: Step[Any], material: ScannedTexts, notes: list[str]) -> ScannedTexts:
    """The texts with only the tokens near the expressions of ``--around``."""
    preparation = step.preparation
    corpus = material.corpus
    kept, places = near_of(step, corpus, notes)
    near = only_near(corpus, kept)
    left, right = preparation.around_span
    notes.append(
        f"only the {numbered(int(near.tokens.sum()), 'token')} within {left} to the left and {right} to the right of "
        f"{numbered(places, 'place')} of {listed(preparation.around)}; rates are of these"
    )
    return replace(material, corpus=near, not_near=int(corpus.tokens.sum() - near.tokens.sum()))


def near_of(step: Step[Any], corpus: Corpus, notes: list[str]) -> tuple[np.ndarray, int]:
    """(T,) bool: the tokens near the expressions of ``--around``; and how many places these have."""
    preparation = step.preparation
    words = words_of(step, corpus, term_map_of(step, corpus))
    expressions = [expression_of(step, typed, "--around") for typed in preparation.around]
    places = list(found_expressions(step, corpus, expressions, words, notes).values())
    return near_tokens(corpus, places, preparation.around_span), sum(map(len, places))
