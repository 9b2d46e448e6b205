"""A look at texts before anything is analysed."""

from millstone.analyses.base.analysis import Analysis
from millstone.analyses.check.schema import schema
from millstone.analyses.check.settings import CheckSettings
from millstone.core.tables.schema import Schema


class CheckAnalysis(Analysis[CheckSettings]):
    """A look at texts."""

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()


ANALYSIS = CheckAnalysis()
