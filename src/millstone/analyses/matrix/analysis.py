"""The documents x terms table."""

from collections.abc import Collection

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.step import Step
from millstone.analyses.base.term_results import counted_terms
from millstone.analyses.matrix.compute import document_terms
from millstone.analyses.matrix.schema import schema
from millstone.analyses.matrix.settings import MatrixSettings
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import numbered
from millstone.core.tables.matrix_result import MatrixResult
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.texts.scanned_texts import ScannedTexts


class MatrixAnalysis(Analysis[MatrixSettings]):
    """The documents x terms table."""

    makes_matrix = True

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def columns(self, step: Step[MatrixSettings]) -> Collection[str]:
        """None: they depend on the texts."""
        return ()

    def validate_settings(self, step: Step[MatrixSettings]) -> Step[MatrixSettings]:
        """A matrix is of n-grams of one size."""
        step.require_input()
        least, most = step.preparation.ngram
        if least != most:
            raise UsageError(
                "--ngram: a matrix holds n-grams of one size", "type --ngram 2, and make one matrix per size"
            )
        return step

    def analyse(
        self, step: Step[MatrixSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The table whole, and as much of it as a screen can show."""
        counts = counted_terms(step, material, notes).of_one_size
        table = document_terms(counts, step.settings)
        if not len(table.names) or not len(table.rows):
            notes.append("no term is left to show: the settings leave all of them out")
        notes.append(
            f"{numbered(len(table.rows), 'row')}, {numbered(len(table.names), 'column')}; "
            f"{100 * table.filled:.1f} % of the cells are not 0"
        )
        fixed = {name: column for name, column in self.schema().by_name.items() if name in table.rows}
        return MatrixResult("matrix", table.preview(), fixed, counts.sizes, step.typed, counts.left_out, matrix=table)


ANALYSIS = MatrixAnalysis()
