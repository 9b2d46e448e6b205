"""The group, or the frequency list, that texts are compared with (``--against``)."""

import os
from dataclasses import replace
from pathlib import Path
from typing import Any

from millstone.analyses.base.analysis import texts_of
from millstone.analyses.base.groups.pairs import comparisons
from millstone.analyses.base.settings import ComparisonSettings
from millstone.analyses.base.step import Step
from millstone.core.base.errors import DataError
from millstone.core.settings.declare import option
from millstone.core.settings.inputs import FrequencyListOptions, InputOptions
from millstone.core.tables.result import size_in_words
from millstone.core.terms.counts import Counts
from millstone.core.terms.frequency_lists import aligned
from millstone.texts.inputs.files import ending_of, stem_of
from millstone.texts.inputs.lists.frequency_lists import ENDINGS
from millstone.texts.list_material import material_of_lists
from millstone.texts.term_counts import count_terms, prepared_terms


def with_list(step: Step[Any], counts: Counts, notes: list[str]) -> tuple[Counts, Counts | None]:
    """The counts, and those of the list that they are held against, under the same terms."""
    of_list = list_to_compare(step)
    if of_list is None or step.settings.against in counts.groups:
        return counts, None
    skipped = [
        name
        for name in ("lemmas", "phrases")
        if getattr(of_list.preparation, name) != getattr(step.preparation, name)
    ]
    if skipped:
        notes.append(
            f"the terms of {step.settings.against} are taken as they stand: "
            f"{' and '.join(map(option, skipped))} made those of the texts only"
        )

    material = material_of_lists(texts_of(of_list), beside_texts=True)
    notes += [note for note in material.provenance.notes if note not in notes]
    counted = count_terms(texts_of(of_list), prepared_terms(texts_of(of_list), material, notes), material, notes)
    size = counts.words_of_terms
    n = size if material.of_sizes else 1
    if n not in counted or not any(len(term.split()) == size for term in counted[n].terms):
        raise DataError(
            f"--against {step.settings.against}: the list has no {size_in_words(size)}",
            "make it with the same --ngram",
        )
    return aligned(counts, counted[n])


def list_to_compare(step: Step[Any]) -> Step[Any] | None:
    """The step that reads the frequency list that ``--against`` names; None where it names none.

    What needs running text, lemmas of a language and phrases, does not reach the list.
    """
    against = step.settings.against if isinstance(step.settings, ComparisonSettings) else ""
    if not os.path.isfile(against):  # noqa: PTH113 (the other way takes long to import)
        return None
    if ending_of(Path(against)) not in ENDINGS:
        return None
    inputs = replace(step.inputs, input=(f"{stem_of(Path(against))}={against}",))
    tables = tuple(name for name in step.preparation.lemmas if name not in texts_of(step).languages_of_lemmas)
    preparation = replace(step.preparation, lemmas=tables, phrases=(), ngram=(1, 1))
    counted = replace(FrequencyListOptions(), lists=True)
    return replace(step, inputs=inputs, reading=InputOptions(), preparation=preparation, counted=counted)


def check_against(step: Step[Any], groups: tuple[str, ...]) -> None:
    """Raise DataError where ``--against`` names neither a group of the texts nor a list."""
    if list_to_compare(step) is None:
        comparisons(groups, step.settings.against)
