"""A look at texts before anything is analysed."""

from millstone.analyses.base.analysis import Analysis
from millstone.analyses.check.schema import duplicates, schema, units
from millstone.analyses.check.settings import CheckSettings
from millstone.core.tables.schema import Schema


class CheckAnalysis(Analysis[CheckSettings]):
    """A look at texts."""

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def further_schemas(self) -> tuple[Schema, ...]:
        """The schemas of near-duplicates, and of units with their texts."""
        return (duplicates(), units())


ANALYSIS = CheckAnalysis()
