"""From a result to the bytes of a figure."""

import difflib
import io
import logging
import re
import unicodedata
import warnings
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import matplotlib as mpl
from matplotlib import font_manager, ft2font
from matplotlib.figure import Figure
from matplotlib.patches import PathPatch
from matplotlib.text import Text

from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed
from millstone.core.tables.result import Result
from millstone.outputs.charts.colours import is_map, notes_on
from millstone.outputs.charts.figure_size import SMALL, resized_pdf, resized_svg, scale_of, wanted_inches
from millstone.outputs.charts.highlight import highlight
from millstone.outputs.charts.settings import OF_PAGE, ChartSettings
from millstone.outputs.charts.svg_text import described_file
from millstone.outputs.charts.theme import CAPTION, DPI, FAMILIES, LETTERS, STYLE, installed, of_aspect

MOST_GROUPS = 1000
"""More than these no figure shows."""

Draw = Callable[[Result, Any], Figure]
Figures = Mapping[str, Draw]
"""The kinds of figure that a table has, its usual one first."""

_COMMENT = re.compile(rb" *<!--.*?-->\n?", re.DOTALL)
_OUTLINE, _DECIMALS = re.compile(rb' d="[^"]*"'), re.compile(rb"(\.\d\d)\d+")
# no dates and no program names in the files, so that the same data gives the same bytes
_METADATA: dict[str, dict[str, str | None]] = {
    ".png": {"Software": None},
    ".svg": {"Date": None, "Creator": "millstone"},
    ".pdf": {"CreationDate": None, "Creator": "millstone", "Producer": None},
}
_ABOUT = {".png": "Description", ".svg": "Description", ".pdf": "Subject"}


@dataclass(frozen=True)
class Drawn:
    """A figure as it is written: its content for each ending, its title, the caption below it, all words in it.

    `above` is the share of its height that lies above the caption.
    """

    contents: Mapping[str, bytes]
    title: str
    caption: str
    words: tuple[str, ...]
    above: float
    figure: Figure


def chart_bytes(
    result: Result, settings: ChartSettings, figures: Figures, notes: list[str], about: str = ""
) -> bytes:
    """Draw a result in the format of the ending of ``settings.chart``; what it lacks goes to `notes`.

    Raises
    ------
    DataError
        When the table has no such figure, or no row can be drawn.
    """
    ending = Path(settings.chart).suffix.lower()
    return drawn(result, settings, figures, [ending], notes, about).contents[ending]


def drawn(
    result: Result,
    settings: ChartSettings,
    figures: Figures,
    endings: Sequence[str],
    notes: list[str],
    about: str = "",
) -> Drawn:
    """Draw a result once, and write it in all the formats of `endings`; what it lacks goes to `notes`.

    The files say `about` what they are.

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
    if len(result.groups) > MOST_GROUPS:
        raise DataError(
            f"a figure shows at most {MOST_GROUPS:,} groups, and there are {len(result.groups):,}",
            "is the column of the groups the right one? choose documents with --where, or leave --chart out",
        )
    notes += notes_on(settings.chart_colors, [size.name for size in result.groups])
    if kind == "heat" and settings.chart_colors and not is_map(settings.chart_colors):
        notes.append("--chart-colors: a heat map is drawn in a colour map, such as viridis, not in colours of groups")
    families = [*_wanted_font(settings.chart_font, notes), *FAMILIES[:1]]
    found, missing = _in_fonts(result, settings, figures[kind], families, endings, about, notes)
    if missing:
        found, missing = _in_fonts(
            result, settings, figures[kind], [*families, *installed(FAMILIES)], endings, about, []
        )
    notes += _notes_on_letters(found, missing, settings)
    return found


def _notes_on_letters(found: Drawn, missing: set[str], settings: ChartSettings) -> Iterator[str]:
    """Notes on letters that cannot be drawn, or not be read."""
    if any(map(_is_right_to_left, found.words)) and not hasattr(ft2font, "__libraqm_version__"):
        yield (
            "this version of Matplotlib neither joins the letters of right-to-left words nor turns them around: "
            "install 3.11 or later and draw the figure again"
        )
    if missing:
        yield (
            f"{len(missing)} characters of the figure are in no installed font ({min(missing).lower()}, ...): "
            "install a font for this script and draw it again"
        )
    points = LETTERS * scale_of(found.figure, settings)
    if points < SMALL:
        size = f"{points:.1f} points large"
        yield f"--chart-size: letters are {size}; draw fewer terms (--chart-top), or a larger figure"


def _wanted_font(name: str, notes: list[str]) -> list[str]:
    """The font that is asked for, or an installed one whose name is near, which is noted."""
    if not name:
        return []
    known = sorted({font.name for font in font_manager.fontManager.ttflist})
    same = next((one for one in known if one.lower() == name.lower()), "")
    if same:
        return [same]
    near = difflib.get_close_matches(name, known, 1)
    notes.append(f"--chart-font: no font {name!r} is installed; drawn in {near[0] if near else FAMILIES[0]}")
    return near


def _above_caption(figure: Figure) -> float:
    found = figure.findobj(lambda one: one.get_gid() == CAPTION)
    high = figure.bbox.height
    return 1 - found[0].get_window_extent().y1 / high if found else 1.0


def _is_right_to_left(word: str) -> bool:
    return any(unicodedata.bidirectional(sign) in ("R", "AL") for sign in word)


def _in_fonts(
    result: Result,
    settings: ChartSettings,
    draw: Draw,
    families: list[str],
    endings: Sequence[str],
    about: str,
    notes: list[str],
) -> tuple[Drawn, set[str]]:
    """The figure as it is written, and the names of the characters that no font has."""
    logging.getLogger("matplotlib.font_manager").setLevel(logging.ERROR)
    contents = {}
    style: dict[Any, Any] = {**STYLE, "font.family": families}
    with mpl.rc_context(style), warnings.catch_warnings(record=True) as said:
        warnings.simplefilter("always")
        wanted = wanted_inches(settings)
        with of_aspect(wanted[1] / wanted[0] if wanted else 0.0):
            figure = draw(result, settings)
        if missed := highlight(figure, settings.chart_highlight) if settings.chart_highlight else []:
            notes.append(f"--chart-highlight: not in the figure: {listed(missed)}")
        for kind in dict.fromkeys(endings):
            contents[kind] = _written(figure, settings, kind, about)
            # a layout takes longer to find than to draw, and is the same for all formats
            figure.set_layout_engine("none")
        figure.draw_without_rendering()
        above = _above_caption(figure)
    found = (re.search(r"Glyph \d+ \((?:\\N\{)?(.+?)\}?\) missing", str(one.message)) for one in said)
    title, caption = (text.replace(r"\$", "$") for text in (figure.get_suptitle(), figure.get_supxlabel()))
    if ".svg" in contents:
        has_text, font = not settings.chart_outlines, families[0] if families[0] != FAMILIES[0] else ""
        contents[".svg"] = described_file(contents[".svg"], figure, title, caption, has_text, font)
        contents[".svg"] = resized_svg(contents[".svg"], wanted) if wanted else contents[".svg"]
    written = [one.get_text() for one in figure.findobj(Text) if isinstance(one, Text)]
    words = [*written, *(str(one.get_label()) for one in figure.findobj(PathPatch))]
    return Drawn(contents, title, caption, tuple(words), above, figure), {one[1] for one in found if one}


def _written(figure: Figure, settings: ChartSettings, kind: str, about: str) -> bytes:
    """A figure in a format, of the size that was asked for."""
    ending = ".svg" if kind == OF_PAGE else kind
    has_text = kind == ".svg" and not settings.chart_outlines
    file = io.BytesIO()
    with mpl.rc_context({"svg.fonttype": "none" if has_text else "path"}):
        figure.savefig(
            file,
            format=ending[1:],
            dpi=settings.chart_dpi * scale_of(figure, settings) if kind == ".png" else DPI,
            metadata={**_METADATA[ending], **({_ABOUT[ending]: about} if about else {})},
        )
    wanted, content = wanted_inches(settings), file.getvalue()
    if wanted and kind == ".pdf":
        return resized_pdf(content, wanted)
    return _shorter(content) if ending == ".svg" else content


def _shorter(svg: bytes) -> bytes:
    """A drawing without comments, its outlines to a hundredth of a point, which nobody sees; a third as long."""
    svg = _COMMENT.sub(b"", svg)
    return _OUTLINE.sub(lambda path: _DECIMALS.sub(rb"\1", path[0]), svg)
