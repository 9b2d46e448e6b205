"""Results whose tables are made of counts of terms."""

from typing import Any

from millstone.analyses.base.analysis import analysis_of, texts_of
from millstone.analyses.base.step import Step
from millstone.core.corpus.group_names import check_group_names
from millstone.core.tables.columns import columns_of_terms
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table
from millstone.texts.scanned_texts import Material
from millstone.texts.term_counts import TermCounts, count_texts


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
