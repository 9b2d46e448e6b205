"""Categories drawn: the mean of each group with its 95 % interval."""

from collections.abc import Mapping, Sequence

from matplotlib.figure import Figure

from millstone.analyses.categories.compute import FIXED_COLUMNS
from millstone.analyses.categories.schema import scale_unit
from millstone.core.statistics.means import group_means
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.colours import GroupLook
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.panels import CUT, possible_means
from millstone.outputs.charts.settings import ChartSettings

MEAN_WITH_INTERVAL = "Mean of the documents' values with its 95 % interval (Student's t; none for a single document)"
ALIKE = "Short and long documents weigh alike."


def draw(result: Result, settings: ChartSettings) -> Figure:
    """Categories from the commonest down; one dot per group."""
    names = [name for name in result.columns if name not in FIXED_COLUMNS]
    groups = [size.name for size in result.groups]
    means = group_means(result.table, names, groups).to_frame()
    order = means.groupby("value", sort=False)["mean"].mean().sort_values(ascending=False, kind="stable")
    shown = order.index[: settings.most_drawn()].tolist()
    hidden = len(order) - len(shown)
    more = f" {hidden:,} rarer categories are not drawn." if hidden else ""
    scale = str(result.settings.get("scale", "percent"))
    return draw_means(result, settings, shown, scale_unit(scale), more, "Categories: group means")


def draw_means(
    documents: Result, settings: ChartSettings, shown: Sequence[str], unit: str, more: str, heading: str
) -> Figure:
    """The means of some values, one row per value, one dot per group; `documents` has one row per document."""
    groups = [size.name for size in documents.groups]
    means = possible_means(documents.frame, shown, groups, documents.columns)
    figure = theme.new_figure(max(theme.least_height(), len(shown) * (0.13 * len(groups) + 0.15) + 1.6))
    axes = figure.subplots()
    look = GroupLook(documents.groups, settings.chart_colors)
    axes.grid(axis="x")
    spread = 0.64 / max(len(groups) - 1, 1)
    for number, group in enumerate(groups):
        rows = means[means["group"] == group].set_index("value").loc[list(shown)]
        at = [row + (number - (len(groups) - 1) / 2) * spread for row in range(len(shown))]
        theme.dots_with_intervals(
            axes,
            at,
            rows["mean"].tolist(),
            rows["low"].tolist(),
            rows["high"].tolist(),
            look.colour(group),
            look.mark(group),
        )
    if not means["mean"].fillna(0).any():
        # nothing was found, and less than nothing cannot be
        axes.set_xlim(-0.02, 1)
    for row in range(1, len(shown), 2):
        axes.axhspan(row - 0.5, row + 0.5, color=theme.FAINT, alpha=0.35, linewidth=0, zorder=0)
    theme.name_rows(axes, shown)
    axes.set_xlabel(f"mean over documents: {unit}")
    theme.legend_of(figure, look, groups)
    theme.heading(figure, settings, heading)
    theme.caption(
        figure,
        [
            f"{MEAN_WITH_INTERVAL}. {ALIKE}{CUT if means['cut'].any() else ''}{more}",
            theme.sizes_line(documents.groups),
        ],
    )
    return figure


FIGURES: Mapping[str, Figures] = {"categories": {"means": draw}}
