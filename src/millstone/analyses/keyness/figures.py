"""Keyness drawn: a dot with its 95 % interval for each of the strongest terms of both sides."""

from collections.abc import Mapping

import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from millstone.analyses.base.groups.notes import is_carried_by_few
from millstone.analyses.keyness.comparing.comparison import STATISTIC
from millstone.analyses.keyness.comparing.notes import has_units, test_in_force
from millstone.analyses.keyness.measures import MEASURES
from millstone.analyses.keyness.points import draw_evidence, draw_frequencies
from millstone.core.base.errors import DataError
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.clouds.cloud import cloud_of, draw_clouds
from millstone.outputs.charts.colours import GroupLook
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.panels import panels_of
from millstone.outputs.charts.settings import ChartSettings, CloudSettings

_SIDES = ["target", "reference"]


def draw(result: Result, settings: ChartSettings) -> Figure:
    """One panel per comparison: terms by log ratio, the two sides named at the two ends of the axis."""
    chosen = [strongest(frame, settings.most_drawn()) for _, frame in result.frame.groupby(_SIDES, sort=False)]
    figure, grid = _grid(chosen)
    look = GroupLook(result.groups, settings.chart_colors)
    for axes, frame in zip(grid, chosen, strict=True):
        draw_comparison(axes, frame, look)
    what = "which terms both sides share" if result.settings.get("shared") else "which terms set the groups apart"
    theme.heading(figure, settings, f"Keyness: {what}")
    theme.caption(figure, _caption(result, settings))
    return figure


def draw_ranks(result: Result, settings: ChartSettings) -> Figure:
    """One panel per comparison: the ranks of the strongest terms with their intervals under resampling.

    Raises
    ------
    DataError
        When documents were not drawn anew.
    """
    if "rank_low" not in result.frame.columns:
        raise DataError("--chart-kind ranks: the table has no ranks of samples", "compare with --resample 1000")
    panels = [rows.nsmallest(settings.most_drawn(), "rank") for _, rows in result.frame.groupby(_SIDES, sort=False)]
    figure, grid = _grid(panels)
    look = GroupLook(result.groups, settings.chart_colors)
    for axes, frame in zip(grid, panels, strict=True):
        axes.grid(axis="x")
        theme.logarithmic(axes, "x")
        for row, one in enumerate(frame.to_dict("records")):
            side = one["higher_in"]
            theme.dots_with_intervals(
                axes, [row], [one["rank"]], [one["rank_low"]], [one["rank_high"]], look.colour(side), look.mark(side)
            )
        theme.name_rows(axes, frame["term"].tolist())
        pairs = zip(frame["freq_target"], frame["freq_reference"], strict=True)
        theme.right_edge(axes, [f"{a:,} : {b:,}" for a, b in pairs], "freq")
        axes.set_title(theme.plain(f"{frame['target'].iloc[0]} against {frame['reference'].iloc[0]}"))
        axes.set_xlabel("rank, 1 the strongest (logarithmic)")
    theme.heading(figure, settings, "Keyness: which terms would stay on top in another sample")
    number = result.settings.get("resample", "the")
    theme.caption(
        figure,
        [
            f"Dot: the rank of the term, 1 for {ranked_by(result)}. Line: where 95 % of its ranks lie in {number} "
            "samples of documents, drawn with replacement within each side. Colour and mark: the side where the term "
            "is more frequent. At the right: occurrences in the target : in the reference.",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def _grid(panels: list[pd.DataFrame]) -> tuple[Figure, list[Axes]]:
    """A figure with axes for so many panels of rows."""
    rows = max((len(frame) for frame in panels), default=1)
    return panels_of(len(panels), 3, rows * 0.2 + 1.6)


def strongest(frame: pd.DataFrame, top: int) -> pd.DataFrame:
    """The `top` terms of each side that are ranked first, by log ratio from target to reference."""
    drawn = frame[frame["log_ratio"].notna() & frame["higher_in"].fillna("").ne("")]
    first = drawn.sort_values("rank", kind="stable").groupby("higher_in", sort=False).head(top)
    return first.sort_values("log_ratio", ascending=False, kind="stable")


def draw_comparison(axes: Axes, frame: pd.DataFrame, look: GroupLook) -> Axes:
    """One comparison; `frame` holds the rows to draw, from top to bottom."""
    if frame.empty:
        axes.text(0.5, 0.5, "no term differs", ha="center", transform=axes.transAxes)
        return axes
    target, reference = frame["target"].iloc[0], frame["reference"].iloc[0]
    axes.grid(axis="x")
    axes.axvline(0, color=theme.INK, linewidth=1)
    reach = float(frame[["log_ratio", "log_ratio_low", "log_ratio_high"]].abs().max().max())
    axes.set_xlim(-1.05 * reach, 1.05 * reach)
    height = pd.Series(range(len(frame)), index=frame.index)
    warned = is_carried_by_few(frame)
    for side in (target, reference):
        for is_warned in (False, True):
            some = frame[(frame["higher_in"] == side) & (warned == is_warned)]
            theme.dots_with_intervals(
                axes,
                height[some.index].tolist(),
                some["log_ratio"].tolist(),
                some["log_ratio_low"].tolist(),
                some["log_ratio_high"].tolist(),
                look.colour(side),
                look.mark(side),
                filled=not is_warned,
            )
    theme.name_rows(axes, frame["term"].tolist())
    theme.name_the_ends(axes, target, reference, look)
    pairs = zip(frame["freq_target"], frame["freq_reference"], strict=True)
    theme.right_edge(axes, [f"{b:,} : {a:,}" for a, b in pairs], "freq")
    axes.set_xlabel("log ratio (log2 of the two rates)")
    return axes


_HIGHEST = {
    "ll": "the highest log-likelihood",
    "ll_documents": "the highest log-likelihood over documents",
    "design_effect": "the highest design effect",
    "g2": "the highest log-likelihood of four cells",
    "chi2": "the highest chi-squared",
    "p": "the lowest p",
    "p_adjusted": "the lowest adjusted p",
    "fisher": "the lowest p of Fisher's test",
    "bic": "the highest bic",
    "ell": "the highest ell",
    "log_ratio_low": "the lower limit of the log ratio farthest from 0",
    "log_ratio_high": "the upper limit of the log ratio farthest from 0",
}


def ranked_by(result: Result) -> str:
    """The rule by which the first terms of a table of keyness are first, in words."""
    settings = result.settings
    if settings.get("shared"):
        return "the lowest rate in the background" if "background" in settings else "the smallest difference"
    name = str(settings.get("rank_by") or STATISTIC.get(test_in_force(result), "ll_documents"))
    if name == "ll_documents" and not has_units(result):
        name = "g2" if settings.get("count") == "documents" else "ll"
    return _HIGHEST.get(name) or f"the largest {MEASURES[name].column.title}, either way"


def over_what(result: Result) -> str:
    """The words for what the intervals of a table of keyness are over."""
    over = {"documents": "over documents", "resample": "of samples of documents"}
    asked = str(result.settings.get("interval", test_in_force(result)))
    return over.get(asked, "over tokens") if has_units(result) else "over tokens"


def _caption(result: Result, settings: ChartSettings) -> list[str]:
    zeros = {"smooth": "0.5 is added to every count", "skip": "terms with a zero are left out"}
    rule = zeros.get(str(result.settings.get("zeros")), "0.5 stands for a zero")
    return [
        f"The {settings.most_drawn()} terms of each side with {ranked_by(result)}, by log ratio ({rule}), with 95 % "
        f"intervals {over_what(result)}, an arrow where an interval has no end; 1 is twice as frequent. Hollow: "
        "tokens alone tell it, not documents, or one document has most of it. At the right: occurrences on the left "
        "side : on the right side.",
        theme.sizes_line(result.groups),
    ]


def draw_cloud(result: Result, settings: CloudSettings) -> Figure:
    """The terms that set each group apart, as large as the difference is at least."""
    clouds = []
    for group in (size.name for size in result.groups):
        rows = _of_group(result.frame, group)
        clouds.append(cloud_of(group, rows, "lower", settings, is_carried_by_few(rows)))
    size = (
        f"The area of a word grows with the lower limit of its log ratio's 95 % interval {over_what(result)}, "
        "that is with how much more frequent it is at least; only terms whose interval lies above 0"
    )
    return draw_clouds(
        result, settings, clouds, "Contrast cloud: the terms that set each group apart", size, "intervals"
    )


def _of_group(frame: pd.DataFrame, group: str) -> pd.DataFrame:
    """The terms that are surely more frequent in a group, with ``lower``, the log ratio they have at least."""
    as_target = frame["target"] == group
    here = frame[(as_target | (frame["reference"] == group)) & (frame["higher_in"] == group)]
    lower = here["log_ratio_low"].where(here["target"] == group, -here["log_ratio_high"])
    rows = here.assign(lower=lower)[lower > 0].sort_values("lower", ascending=False, kind="stable")
    return rows.drop_duplicates("term")


FIGURES: Mapping[str, Figures] = {
    "keyness": {
        "intervals": draw,
        "evidence": draw_evidence,
        "frequencies": draw_frequencies,
        "ranks": draw_ranks,
        "cloud": draw_cloud,
    }
}
