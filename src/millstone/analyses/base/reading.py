"""From a step to the scanned texts that its analysis works on."""

from collections.abc import Collection
from pathlib import Path
from typing import Any

from millstone.analyses.base.analysis import DrawProgress, analysis_of, texts_of
from millstone.analyses.base.guards.notes import guard_notes
from millstone.analyses.base.step import Step
from millstone.core.tables.result import Result
from millstone.texts.inputs.lists.word_lists import read_phrases, read_word_lists
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.scans import Scans


def material_of(step: Step[Any], texts: Scans, notes: list[str], ordered: bool = False) -> ScannedTexts:
    """The texts of a step, its groups checked; what the user should know of them goes to `notes`.

    Parameters
    ----------
    step : Step
    texts : Scans
    notes : list of str
    ordered : bool
        Keep the order of words even if this step does not need it.
    """
    material = texts.of(texts_of(step), ordered)
    analysis_of(step).check_groups(step, material.corpus.groups)
    notes += [*material.provenance.notes, *guard_notes(step, material)]
    if step.preparation.around:
        # few steps look near an expression only, and what finds expressions takes 30 ms to import
        from millstone.analyses.base.matches.context_filter import around

        material = around(step, material, notes)
    return material


def check_before_reading(step: Step[Any], made: Collection[Path] = ()) -> None:
    """Check what can be checked before any text is read: the tagger, word lists, and what the command itself knows.

    Files in `made`, which earlier steps of a study are going to write, need not be there yet.
    """
    if step.preparation.tag:
        # few texts are tagged
        from millstone.texts.inputs.tags.tagger import check_tagger

        check_tagger()
    if step.preparation.around:
        # what reads expressions takes 30 ms to import
        from millstone.analyses.base.matches.context_filter import check_around

        check_around(step)
    read_word_lists(step.preparation)
    read_phrases(step.preparation.phrases, step.preparation.case)
    analysis_of(step).check(step, made)


def analysed(
    step: Step[Any], texts: Scans, notes: list[str], drawing: DrawProgress, ordered: bool = False
) -> tuple[ScannedTexts, Result]:
    """The texts of a step, and its result; what the user should know goes to `notes`.

    Parameters
    ----------
    step : Step
    texts : Scans
    notes : list of str
    drawing : callable
        Called with the random draws done, and how many there are.
    ordered : bool
        Keep the order of words even if this step does not need it.
    """
    analysis = analysis_of(step)
    if analysis.runs_several:
        return analysis.analyse_several(step, texts, notes, drawing)
    material = material_of(step, texts, notes, ordered)
    return material, analysis.analyse(step, material, notes, drawing)
