"""The word tree drawn: straight branches from the node outwards, as thick as they have places."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.text import Text

from millstone.core.base.errors import DataError
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.colours import SOFT, GroupLook
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.settings import ChartSettings

_MOST_LEAVES = 90
_ROW, _SIZE = 0.165, 8.5
_GAP = 0.42
_LONGEST = 46
_LEAST_SCALE, _LARGEST_SCALE = 0.8, 1.3
_USUAL = theme.HEIGHT - 1.6


@dataclass
class _Branch:
    """A branch with those of its fork; the row in which it is drawn, and how wide its text is, in inches."""

    text: str
    places: int
    children: list["_Branch"] = field(default_factory=list)
    row: float = 0.0
    width: float = 0.0

    @property
    def label(self) -> str:
        words = self.text if len(self.text) <= _LONGEST else f"{self.text[: _LONGEST - 1]}…"
        return f"{words}  {self.places:,}"


def draw(result: Result, settings: ChartSettings) -> Figure:
    """The tree of one node: of the first group, node and sides of the table.

    Raises
    ------
    DataError
        For a table without branches.
    """
    frame = result.frame
    if frame.empty:
        raise DataError("there is nothing to draw: the tree has no branches", "look for something that occurs")
    group, node = frame["group"].iloc[0], frame["node"].iloc[0]
    here = frame[(frame["group"] == group) & (frame["node"] == node)]
    sides = {side: _tree(rows) for side, rows in here.groupby("side", sort=False)}
    left_out = sum(_cut(trees, _MOST_LEAVES) for trees in sides.values())
    leaves = max(sum(map(_leaves, trees)) for trees in sides.values())
    figure = theme.new_figure(max(theme.least_height(), leaves * _ROW + 1.6))
    axes = figure.subplots()
    axes.axis("off")
    look = GroupLook(result.groups, settings.chart_colors)
    colour = look.colour(group) if any(size.name == group for size in result.groups) else "#17567a"
    theme.heading(figure, settings, f"Word tree: {node}{f' ({group})' if group != 'all' else ''}")
    others = len(frame.drop_duplicates(["group", "node"])) - 1
    # what is written above and below takes its room first
    theme.caption(figure, _caption(result, left_out, others))
    figure.draw_without_rendering()
    left_out += _draw_sides(axes, str(node), sides, colour)
    theme.caption(figure, _caption(result, left_out, others))
    return figure


def _caption(result: Result, left_out: int, others: int) -> list[str]:
    more = f" {left_out:,} narrower branches are left out." if left_out else ""
    more += f" {others:,} more trees of the table are not drawn." if others else ""
    return [
        "Words beside the node, within the sentence; the number of places after each branch, and lines as thick. "
        f"(end): the sentence ends; (N more): N other words.{more}",
        theme.sizes_line(result.groups),
    ]


def _tree(rows: pd.DataFrame) -> list[_Branch]:
    """The branches of the first fork, each with its own."""
    path: list[_Branch] = [_Branch("", 0)]
    for level, text, places in zip(rows["level"], rows["branch"], rows["places"], strict=True):
        branch = _Branch(str(text), int(places))
        del path[int(level) :]
        path[-1].children.append(branch)
        path.append(branch)
    _trim(path[0].children)
    return path[0].children


def _trim(trees: Sequence[_Branch]) -> None:
    """Take off forks that show no word."""
    for branch in trees:
        _trim(branch.children)
        if all(child.text.startswith("(") for child in branch.children):
            branch.children = []


def _leaves(branch: _Branch) -> int:
    return sum(map(_leaves, branch.children)) or 1


def _cut(trees: list[_Branch], most: int) -> int:
    """Take the narrowest forks off until no more than so many leaves are left; how many branches that were."""
    gone = 0
    while sum(map(_leaves, trees)) > most:
        forks = [one for tree in trees for one in _with_forks(tree)]
        if not forks:
            gone += len(trees) - most
            del trees[most:]
            break
        narrowest = min(forks, key=lambda one: one.places)
        gone += len(narrowest.children)
        narrowest.children = []
    return gone


def _with_forks(branch: _Branch) -> list[_Branch]:
    """The branches whose fork has no further forks."""
    if not branch.children:
        return []
    inner = [found for child in branch.children for found in _with_forks(child)]
    return inner or [branch]


def _draw_sides(axes: Axes, node: str, sides: dict[str, list[_Branch]], colour: str) -> int:
    """Draw the trees of all sides; how many branches were left out since the figure is not wide enough."""
    width = float(axes.get_window_extent().width) / theme.DPI
    height = max(sum(map(_leaves, trees)) for trees in sides.values())
    axes.set_ylim(height - 0.4, -0.9)
    axes.set_xlim(0, width)
    middle = axes.text(0, 0, theme.plain(node, 200), fontsize=13, fontweight="bold", va="center")
    own = _inches(middle)
    room = width - own - 0.2
    for trees in sides.values():
        _measure(axes, trees)
    left_out = 0
    while _breadth_of(sides) * _LEAST_SCALE > room and (deepest := _deepest(sides)):
        left_out += len(deepest.children)
        deepest.children = []
    # a small tree may be larger
    scale = min(_LARGEST_SCALE if height * _ROW * _LARGEST_SCALE < _USUAL else 1.0, room / _breadth_of(sides))
    before = _breadth(sides["left"]) * scale if "left" in sides else 0.0
    start = before + 0.06 if "left" in sides else 0.0
    middle.set_position((start, (height - 1) / 2))
    most = max(branch.places for trees in sides.values() for branch in trees)
    for side, trees in sides.items():
        _place(trees, (height - sum(map(_leaves, trees))) / 2)
        outwards = 1 if side == "right" else -1
        begin = (start + own + 0.06 if side == "right" else start - 0.06, (height - 1) / 2)
        _draw(axes, trees, begin, [one * scale for one in _columns(trees)], (outwards, most, colour, scale), begin[0])
    return left_out


def _deepest(sides: dict[str, list[_Branch]]) -> _Branch | None:
    """Of the branches with a fork the one farthest from the node, the narrowest first; none at the first fork."""
    found: list[tuple[int, int, _Branch]] = []
    here = [(1, branch) for trees in sides.values() for branch in trees]
    while here:
        found += [(level, -branch.places, branch) for level, branch in here if branch.children]
        here = [(level + 1, child) for level, branch in here for child in branch.children]
    return max(found, key=lambda one: one[:2])[2] if found else None


def _place(trees: Sequence[_Branch], first: float) -> None:
    """Give each leaf its own row, and each fork the middle of its branches."""
    for branch in trees:
        leaves = _leaves(branch)
        _place(branch.children, first)
        branch.row = first + (leaves - 1) / 2
        first += leaves


def _measure(axes: Axes, trees: Sequence[_Branch]) -> None:
    for branch in trees:
        text = axes.text(0, 0, theme.plain(branch.label, 200), fontsize=_SIZE)
        branch.width = _inches(text)
        text.remove()
        _measure(axes, branch.children)


def _columns(trees: Sequence[_Branch]) -> list[float]:
    """Of each level the width of its widest text, with the room for the lines before it, in inches."""
    columns = []
    here = list(trees)
    while here:
        columns.append(max(branch.width for branch in here) + _GAP)
        here = [child for branch in here for child in branch.children]
    return columns


def _breadth_of(sides: dict[str, list[_Branch]]) -> float:
    return sum(map(_breadth, sides.values()))


def _breadth(trees: Sequence[_Branch]) -> float:
    return sum(_columns(trees))


def _inches(text: Text) -> float:
    """How wide a text is."""
    return float(text.get_window_extent().width) / theme.DPI


def _draw(
    axes: Axes,
    trees: Sequence[_Branch],
    at: tuple[float, float],
    columns: Sequence[float],
    look: tuple[int, int, str, float],
    edge: float,
) -> None:
    """Draw branches that begin at a point; their texts stand in the column that begins at `edge`."""
    outwards, most, colour, scale = look
    x = edge + outwards * _GAP * scale
    for branch in trees:
        thickness = 0.6 + 5.4 * branch.places / most
        axes.plot([at[0], x - outwards * 0.04], [at[1], branch.row], color=colour, alpha=0.55, linewidth=thickness)
        is_rest = branch.text.startswith("(")
        axes.text(
            x,
            branch.row,
            theme.plain(branch.label, 200),
            fontsize=_SIZE * scale,
            ha="left" if outwards > 0 else "right",
            va="center",
            color=SOFT if is_rest else theme.INK,
        )
        if branch.children:
            begin = (x + outwards * (branch.width * scale + 0.05), branch.row)
            _draw(axes, branch.children, begin, columns[1:], look, edge + outwards * columns[0])


FIGURES: Mapping[str, Figures] = {"wordtree": {"tree": draw}}
