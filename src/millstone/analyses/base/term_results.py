"""Results whose tables are made of counts of terms, and the lists that texts are held against."""

import os
from typing import Any

from millstone.analyses.base.analysis import analysis_of, texts_of
from millstone.analyses.base.settings import ComparisonSettings
from millstone.analyses.base.step import Step
from millstone.core.base.errors import DataError
from millstone.core.corpus.group_names import check_group_names
from millstone.core.settings.declare import option
from millstone.core.tables.columns import columns_of_terms
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts, NgramNames
from millstone.core.terms.frequency_lists import aligned
from millstone.texts.scanned_texts import Material
from millstone.texts.term_counts import TermCounts, count_terms, count_texts, prepared_terms


def counted_terms(step: Step[Any], material: Material, notes: list[str]) -> TermCounts:
    """Prepare the texts of a step and count their terms; what the user should know goes to `notes`."""
    return count_texts(texts_of(step), material, notes)


def result_of_terms(step: Step[Any], terms: TermCounts, table: Table, notes: list[str]) -> Result:
    """The result whose table was made of counts."""
    sizes = terms.sizes
    check_group_names(sizes, words_needed=False)
    if not len(table):
        one = "value" if step.counted.count_field else "term"
        notes.append(f"no {one} is left to show: the settings leave all of them out")
    left_out = {rule: tokens for counts in terms.counted.values() for rule, tokens in counts.left_out.items()}
    what = "values" if step.counted.count_field else "terms" if terms.counted.keys() == {1} else "ngrams"
    columns = columns_of_terms(table.names, what)
    return Result(step.command.name, table, columns, sizes, step.typed, left_out, layout=analysis_of(step).layout)


def with_list(step: Step[Any], counts: Counts, notes: list[str]) -> tuple[Counts, Counts | None]:
    """The counts, and those of the list that they are held against, under the same terms."""
    of_list = list_to_compare(step)
    if of_list is None or step.settings.against in counts.groups:
        return counts, None
    if isinstance(counts.terms, NgramNames):
        raise DataError(
            f"--against {step.settings.against}: a list is held against single terms", "leave --ngram out"
        )
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
    from millstone.texts.list_material import material_of_lists

    material = material_of_lists(texts_of(of_list), beside_texts=True)
    notes += material.provenance.notes
    counted = count_terms(texts_of(of_list), prepared_terms(texts_of(of_list), material, notes), material, notes)
    return aligned(counts, counted[1])


def list_to_compare(step: Step[Any]) -> Step[Any] | None:
    """The step that reads the frequency list that ``--against`` names; None where it names none.

    What needs running text, lemmas of a language and phrases, does not reach the list.
    """
    against = step.settings.against if isinstance(step.settings, ComparisonSettings) else ""
    if not os.path.isfile(against):  # noqa: PTH113 (the other way takes long to import)
        return None
    from dataclasses import replace
    from pathlib import Path

    from millstone.core.settings.inputs import Counted, Reading
    from millstone.texts.inputs.files import ending_of, stem_of
    from millstone.texts.inputs.lists.frequency_lists import ENDINGS

    if ending_of(Path(against)) not in ENDINGS:
        return None
    inputs = replace(step.inputs, input=(f"{stem_of(Path(against))}={against}",))
    tables = tuple(name for name in step.preparation.lemmas if name not in texts_of(step).languages_of_lemmas)
    preparation = replace(step.preparation, lemmas=tables, phrases=())
    counted = replace(Counted(), lists=True)
    return replace(step, inputs=inputs, reading=Reading(), preparation=preparation, counted=counted)


def check_against(step: Step[Any], groups: tuple[str, ...]) -> None:
    """Raise DataError where ``--against`` names neither a group of the texts nor a list."""
    from millstone.analyses.base.pairs import comparisons

    if list_to_compare(step) is None:
        comparisons(groups, step.settings.against)
