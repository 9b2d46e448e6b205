"""Agreement: does a category count what coders say it should, and do coders agree?"""

from millstone.analyses.agreement.compute import agreement, cases, entries
from millstone.analyses.agreement.schema import cases as cases_schema
from millstone.analyses.agreement.schema import entries as entries_schema
from millstone.analyses.agreement.schema import schema
from millstone.analyses.agreement.settings import AgreementSettings
from millstone.analyses.agreement.sheets import check_arbiter, read_sheets
from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.step import Step
from millstone.core.base.errors import UsageError
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.scan.scan import scan
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.scans import Scans


class AgreementAnalysis(Analysis[AgreementSettings]):
    """Agreement: does a category count what coders say it should, and do coders agree?"""

    runs_several = True

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def further_schemas(self) -> tuple[Schema, ...]:
        """The schemas of its further tables."""
        return (entries_schema(), cases_schema())

    def validate_settings(self, step: Step[AgreementSettings]) -> Step[AgreementSettings]:
        """A sheet is named."""
        if not step.inputs.input:
            raise UsageError("agreement needs a coding sheet", "name what millstone code wrote, filled in")
        return step

    def analyse_several(
        self, step: Step[AgreementSettings], texts: Scans, notes: list[str], drawing: DrawProgress
    ) -> tuple[ScannedTexts, Result]:
        """No texts but the sheets, and a row for each category."""
        settings, provenance = step.settings, Provenance()
        sheets = read_sheets(step.inputs.input, step.reading, provenance)
        check_arbiter(settings.arbiter, sheets)
        notes += provenance.notes
        table = agreement(sheets, settings.arbiter, settings.seed, notes.append)
        result = Result("agreement", table, schema().of_table(table.names), (), step.typed, schema=schema())
        for laid_out, made in ((entries_schema(), entries), (cases_schema(), cases)):
            if getattr(settings, laid_out.name):
                further = made(sheets, settings.arbiter)
                result = result.with_table(laid_out.name, further, laid_out.of_table(further.names), laid_out)
        return ScannedTexts(scan([]), provenance, Cleaned()), result


ANALYSIS = AgreementAnalysis()
