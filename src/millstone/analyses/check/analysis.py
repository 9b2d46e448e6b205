"""A look at texts before anything is analysed."""

from millstone.analyses.base.analysis import Analysis
from millstone.analyses.check.settings import CheckSettings
from millstone.core.tables.layout import Layout


class CheckAnalysis(Analysis[CheckSettings]):
    """A look at texts."""

    layout = Layout(
        shown=(
            *("group", "documents", "tokens", "shortest", "median", "longest", "longest_document", "empty"),
            "repeated",
        ),
        leaving=("longest_document", "repeated", "empty", "shortest", "median", "longest"),
    )


ANALYSIS = CheckAnalysis()
