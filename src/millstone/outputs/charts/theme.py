"""The one look of all figures: colours, marks, type, captions."""

import contextlib
import math
import textwrap
from collections.abc import Iterator, Sequence
from contextvars import ContextVar

from matplotlib import font_manager
from matplotlib.axes import Axes
from matplotlib.axis import Axis
from matplotlib.figure import Figure
from matplotlib.layout_engine import ConstrainedLayoutEngine
from matplotlib.lines import Line2D
from matplotlib.ticker import FuncFormatter

from millstone.core.base.wording import numbered
from millstone.core.base.xml_text import xml_text
from millstone.core.corpus.corpus import GroupSize
from millstone.outputs.charts.colours import SOFT, GroupLook
from millstone.outputs.charts.settings import ChartSettings

WIDTH, HEIGHT, DPI = 12.8, 8.0, 100
MOST_SIZES_NAMED = 9
_PER_LINE, _TITLE = 172, 96
_WITHIN = 0.98
_LEAST_HEIGHT, _PANEL, _FURTHER_LINES = 2.4, 4.6, 0.7
CAPTION = "caption"
"""The name of the caption within a drawing, so that a page can set it as text."""
INK, FAINT = "#22282d", "#d9dee2"

LETTERS = 10
"""The size of letters, in points."""
STYLE = {
    "font.size": LETTERS,
    "text.color": INK,
    "axes.edgecolor": SOFT,
    "axes.labelcolor": INK,
    "axes.spines.top": False,
    "axes.spines.right": False,
    "axes.spines.left": False,
    "axes.titlesize": 11,
    "axes.titleweight": "bold",
    "axes.titlelocation": "left",
    "axes.axisbelow": True,
    "xtick.color": SOFT,
    "xtick.labelcolor": INK,
    "ytick.color": INK,
    "ytick.major.size": 0,
    "grid.color": FAINT,
    "grid.linewidth": 0.8,
    "legend.frameon": False,
    "figure.facecolor": "white",
    "svg.hashsalt": "millstone",
    "pdf.fonttype": 42,
}


# the first one ships with the plotting library; the others are asked when it lacks a script
FAMILIES = [
    *("DejaVu Sans", "Noto Sans", "Noto Sans CJK", "Source Han Sans", "Droid Sans Fallback"),
    *("WenQuanYi", "Arial Unicode MS", "Nirmala UI"),
]


def installed(families: Sequence[str]) -> list[str]:
    """Those font families, and their varieties for single scripts, that this machine has now."""
    # the plotting library remembers the fonts of its first run
    known = {font.fname for font in font_manager.fontManager.ttflist}
    for path in sorted({*font_manager.findSystemFonts()} - known):
        with contextlib.suppress(OSError, RuntimeError):
            font_manager.fontManager.addfont(path)
    names = sorted({font.name for font in font_manager.fontManager.ttflist})
    return list(dict.fromkeys(name for family in families for name in names if name.startswith(family)))


_ASPECT: ContextVar[float] = ContextVar("aspect", default=0.0)


@contextlib.contextmanager
def of_aspect(height_by_width: float) -> Iterator[None]:
    """Give the figures that are made meanwhile a height of so many times their width; 0 for any."""
    token = _ASPECT.set(height_by_width)
    try:
        yield
    finally:
        _ASPECT.reset(token)


def least_height() -> float:
    """The height of a figure of little content; less where a size is asked for, into which it is scaled."""
    return _LEAST_HEIGHT if _ASPECT.get() else HEIGHT


def least_width(across: int) -> float:
    """The width of a figure with so many panels side by side."""
    return min(_PANEL * across, WIDTH) if _ASPECT.get() else WIDTH


def new_figure(height: float = HEIGHT, width: float = WIDTH) -> Figure:
    """An empty figure, usually of the usual width, in inches; larger where another aspect is asked for."""
    if aspect := _ASPECT.get():
        # the caption takes more lines than in a wide figure
        width = max(width, (height + _FURTHER_LINES) / aspect)
        height = width * aspect
    figure = Figure(figsize=(width, height), dpi=DPI, layout="constrained")
    engine = figure.get_layout_engine()
    assert isinstance(engine, ConstrainedLayoutEngine)
    engine.set(w_pad=0.12, wspace=0.03)
    return figure


def plain(text: str, width: int = 34) -> str:
    """A label as it stands, long ones over several lines, nothing read as a formula."""
    return textwrap.fill(xml_text(text), width, break_long_words=True).replace("$", r"\$")


def sizes_line(groups: Sequence[GroupSize], of_documents: bool = False) -> str:
    """The corpus sizes in words; where documents are what is counted, those alone."""
    if not any(size.tokens for size in groups):
        return "Corpus sizes unknown: the table has no companion."
    names = ("documents",) if of_documents else ("documents", "tokens")
    if len(groups) > MOST_SIZES_NAMED:
        sums = ", ".join(f"{sum(getattr(size, name) for size in groups):,} {name}" for name in names)
        of_one = {size.name: getattr(size, names[-1]) for size in groups}
        least, most = (
            f"{of_one[name]:,} ({name})" for name in (pick(of_one, key=of_one.__getitem__) for pick in (min, max))
        )
        return f"Corpus: {len(groups)} groups, {sums}; from {least} to {most}."
    parts = [
        f"{size.name} {', '.join([size.number, *([] if of_documents else [numbered(size.tokens, 'token')])])}"
        for size in groups
    ]
    return "Corpus: " + "; ".join(parts) + "."


def caption(figure: Figure, lines: Sequence[str]) -> None:
    """Write the caption below a figure: what is drawn, and the corpus sizes."""
    across = round(_PER_LINE * figure.get_figwidth() / WIDTH)
    text = "\n".join(part for line in lines for part in textwrap.wrap(line, across) or [""])
    figure.supxlabel(text.replace("$", r"\$"), x=0.008, ha="left", fontsize=9, color=SOFT, gid=CAPTION)


def legend_of(figure: Figure, look: GroupLook, groups: Sequence[str]) -> None:
    """The groups with their colours and marks, at the top right."""
    handles = [
        Line2D([], [], color=look.colour(group), marker=look.mark(group), linestyle="", label=plain(group))
        for group in groups
    ]
    figure.legend(handles=handles, loc="outside upper right", ncols=min(len(groups), 6))


def heading(figure: Figure, settings: ChartSettings, text: str) -> None:
    """The figure's title: the one that was asked for, or `text`."""
    text = textwrap.fill(settings.chart_title or text, round(_TITLE * figure.get_figwidth() / WIDTH))
    figure.suptitle(text.replace("$", r"\$"), x=0.008, ha="left", fontsize=14, fontweight="bold")


def dots_with_intervals(
    axes: Axes,
    at: Sequence[float],
    centre: Sequence[float],
    low: Sequence[float],
    high: Sequence[float],
    colour: str,
    mark: str,
    filled: bool = True,
) -> None:
    """Dots with their 95 % intervals, lying, one at each height of `at`.

    Where one end is missing, the interval goes on to the edge of the axes, whose limits are set before, in an arrow.
    """
    # the tip of an arrow stays within the axes
    edges = [_WITHIN * edge for edge in axes.get_xlim()]
    ends = [list(low), list(high)]
    for row, height in enumerate(at):
        missing = [math.isnan(ends[side][row]) for side in range(2)]
        if sum(missing) == 1:
            side = missing.index(True)
            ends[side][row] = edges[side]
            axes.plot([edges[side]], [height], "<>"[side], color=colour, markersize=6, linestyle="")
    axes.hlines(at, ends[0], ends[1], color=colour, linewidth=1.6, alpha=0.75)
    face = colour if filled else "white"
    axes.plot(centre, at, mark, color=colour, markerfacecolor=face, markersize=6, markeredgewidth=1.4, linestyle="")


def name_rows(axes: Axes, labels: Sequence[str]) -> None:
    """Labels at the heights 0, 1, 2, ... from the top down."""
    axes.set_yticks(range(len(labels)), [plain(label) for label in labels])
    axes.set_ylim(len(labels) - 0.4, -0.6)


def right_edge(axes: Axes, texts: Sequence[str], title: str) -> None:
    """Numbers printed at the right edge, one per row, under a short title."""
    place = axes.get_yaxis_transform()
    for row, text in enumerate(texts):
        axes.text(1.02, row, text, transform=place, va="center", fontsize=8.5, color=SOFT)
    axes.text(1.02, 1.012, title, transform=axes.transAxes, va="bottom", fontsize=8.5, color=SOFT)


def logarithmic(axes: Axes, which: str) -> None:
    """A logarithmic axis, ``x`` or ``y``, with its numbers written out."""
    if which == "x":
        axes.set_xscale("log")
    else:
        axes.set_yscale("log")
    thousands(axes.xaxis if which == "x" else axes.yaxis)


def thousands(axis: Axis) -> None:
    """Write the numbers of an axis out, with commas."""
    axis.set_major_formatter(FuncFormatter(lambda value, _: f"{value:,.10g}"))


def name_the_ends(axes: Axes, target: str, reference: str, look: GroupLook) -> None:
    """The two sides, written above the two ends of a level axis."""
    ends = ((0.0, "left", f"◂ {reference}", reference), (1.0, "right", f"{target} ▸", target))
    for x, side, text, group in ends:
        axes.text(
            x,
            1.012,
            plain(text),
            transform=axes.transAxes,
            ha=side,
            va="bottom",
            fontweight="bold",
            color=look.text_colour(group),
        )
