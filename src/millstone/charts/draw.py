"""From a result to the bytes of a figure; which kind of figure each command has."""

import io
from pathlib import Path

import matplotlib as mpl
from matplotlib.figure import Figure

from millstone.charts import categories, keyness, logodds
from millstone.charts.settings import ChartSettings
from millstone.charts.theme import DPI, STYLE
from millstone.core.errors import DataError
from millstone.core.result import Result

KINDS = {"keyness": keyness.draw, "logodds": logodds.draw, "categories": categories.draw}

# no dates and no program names in the files, so that the same data gives the same bytes
_METADATA: dict[str, dict[str, str | None]] = {
    ".png": {"Software": None},
    ".svg": {"Date": None, "Creator": "millstone"},
    ".pdf": {"CreationDate": None, "Creator": "millstone", "Producer": None},
}


def chart_bytes(result: Result, settings: ChartSettings) -> bytes:
    """Draw a result in the format of the ending of ``settings.chart``.

    Raises
    ------
    DataError
        When the command has no figure yet, or no row can be drawn.
    """
    if result.command not in KINDS:
        raise DataError(f"there is no chart of {result.command}", f"charts are drawn of {', '.join(KINDS)}")
    if result.frame.empty:
        raise DataError("there is nothing to draw: the table has no rows", "loosen the settings")
    ending = Path(settings.chart).suffix.lower()
    with mpl.rc_context(STYLE):
        figure: Figure = KINDS[result.command](result, settings)
        file = io.BytesIO()
        figure.savefig(file, format=ending[1:], dpi=DPI, metadata=_METADATA[ending])
    return file.getvalue()
