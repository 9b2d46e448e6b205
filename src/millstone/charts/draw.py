"""From a result to the bytes of a figure."""

import io
import logging
import re
import warnings
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import matplotlib as mpl
from matplotlib.figure import Figure

from millstone.charts.settings import ChartSettings
from millstone.charts.theme import DPI, FAMILIES, STYLE, installed
from millstone.core.errors import DataError
from millstone.core.result import Result

Draw = Callable[[Result, Any], Figure]
Figures = Mapping[str, Draw]
"""The kinds of figure that a table has, its usual one first."""

# no dates and no program names in the files, so that the same data gives the same bytes
_METADATA: dict[str, dict[str, str | None]] = {
    ".png": {"Software": None},
    ".svg": {"Date": None, "Creator": "millstone"},
    ".pdf": {"CreationDate": None, "Creator": "millstone", "Producer": None},
}


def chart_bytes(result: Result, settings: ChartSettings, figures: Figures, notes: list[str]) -> bytes:
    """Draw a result in the format of the ending of ``settings.chart``; what it lacks goes to `notes`.

    Raises
    ------
    DataError
        When the table has no such figure, or no row can be drawn.
    """
    if not figures:
        raise DataError(f"there is no chart of {result.command}", "leave --chart out")
    kind = settings.chart_kind or next(iter(figures))
    if kind not in figures:
        raise DataError(
            f"--chart-kind {kind}: there is no such figure of {result.command}", f"type one of {', '.join(figures)}"
        )
    if result.frame.empty:
        raise DataError("there is nothing to draw: the table has no rows", "loosen the settings")
    content, missing = _drawn(result, settings, figures[kind], FAMILIES[:1])
    if missing:
        content, missing = _drawn(result, settings, figures[kind], installed(FAMILIES))
    if missing:
        notes.append(
            f"{len(missing)} characters of the figure are in no installed font ({min(missing).lower()}, ...): "
            "install a font for this script and draw it again"
        )
    return content


def _drawn(result: Result, settings: ChartSettings, draw: Draw, families: list[str]) -> tuple[bytes, set[str]]:
    """The figure's bytes, and the names of the characters that no font has."""
    ending = Path(settings.chart).suffix.lower()
    logging.getLogger("matplotlib.font_manager").setLevel(logging.ERROR)
    with mpl.rc_context({**STYLE, "font.family": families}), warnings.catch_warnings(record=True) as said:
        warnings.simplefilter("always")
        figure = draw(result, settings)
        file = io.BytesIO()
        figure.savefig(file, format=ending[1:], dpi=DPI, metadata=_METADATA[ending])
    found = (re.search(r"Glyph \d+ \((?:\\N\{)?(.+?)\}?\) missing", str(one.message)) for one in said)
    return file.getvalue(), {one[1] for one in found if one}
