"""The documents x terms table."""

from typing import TYPE_CHECKING

from millstone.core.errors import UsageError
from millstone.core.settings.analyses import MatrixSettings
from millstone.study.command import Command

if TYPE_CHECKING:
    from millstone.core.result import Result
    from millstone.study.command import Drawing
    from millstone.study.step import Step
    from millstone.study.texts.material import Material


def settle(step: "Step") -> "Step":
    """A matrix is of n-grams of one size."""
    step.require_input()
    least, most = step.preparation.ngram
    if least != most:
        raise UsageError(
            "--ngram: a matrix holds n-grams of one size", "type --ngram 2, and make one matrix per size"
        )
    return step


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The table whole, and as much of it as a screen can show."""
    from millstone.core.columns import COLUMNS, PART_COLUMNS
    from millstone.core.describe.matrix import MatrixResult, document_terms
    from millstone.core.wording import numbered
    from millstone.study.texts.term_counts import counted_terms

    counts = counted_terms(step, material, notes).of_one_size
    table = document_terms(counts, step.settings)
    if not len(table.names) or not len(table.rows):
        notes.append("no term is left to show: the settings leave all of them out")
    notes.append(
        f"{numbered(len(table.rows), 'row')}, {numbered(len(table.names), 'column')}; "
        f"{100 * table.filled:.1f} % of the cells are not 0"
    )
    fixed = {name: COLUMNS[name] for name in ("document", "group", "term", *PART_COLUMNS) if name in table.rows}
    return MatrixResult("matrix", table.preview(), fixed, counts.sizes, step.typed, counts.left_out, matrix=table)


COMMAND = Command(
    "matrix",
    "the documents x terms table, for other programs",
    MatrixSettings,
    None,
    "One row per document, its group and metadata first, then one column per term. As .mtx only what is not 0 is\n"
    "written, with the names of rows and columns in two files beside it; .csv, .tsv, .xlsx and .parquet\n"
    "have every cell. relative is of all word tokens of the row, left-out ones too.",
    (
        "matrix journals --stop en --min-docs 3 -o journals.csv",
        "matrix guestbook.csv --text entry --group hut -o guestbook.mtx",
        "matrix guestbook.csv --text entry --group hut --by group --transpose --min-freq 50",
    ),
    analyse,
    settle=settle,
    chooses_rows=False,
    makes_matrix=True,
)
