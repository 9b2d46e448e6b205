"""Differences between groups drawn: means, every document, effect sizes, development over parts, a heat map."""

import math
from collections.abc import Mapping

import numpy as np
import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.ticker import MaxNLocator

from millstone.analyses.base.groups.pairs import ALPHA
from millstone.analyses.categories.figures import ALIKE, MEAN_WITH_INTERVAL, draw_means
from millstone.analyses.categories.schema import scale_unit
from millstone.core.base.errors import DataError
from millstone.core.base.wording import numbered
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.colours import GroupLook, is_map
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.panels import CUT, MOST_PANELS, panels_of, possible_means
from millstone.outputs.charts.settings import ContrastChartSettings

MOST_ROWS = 60


def draw(result: Result, settings: ContrastChartSettings) -> Figure:
    """Means of the groups with their intervals, the values with the largest effects first.

    Categories share a scale and stand in one panel; other values have one each.
    """
    documents = _documents(result)
    if "dictionary" in result.settings and "values" not in result.settings:
        names, hidden = _shown(result, settings)
        unit = scale_unit(str(result.settings.get("scale", "percent")))
        return draw_means(documents, settings, names, unit, hidden, "Contrast: group means")
    names, hidden = _shown(result, settings, MOST_PANELS)
    look, groups = GroupLook(result.groups, settings.chart_colors), [size.name for size in result.groups]
    means = possible_means(documents.frame, names, groups, documents.columns)
    figure, panels = _panels(len(names), len(groups) * 0.34 + 1.1)
    for axes, name in zip(panels, names, strict=True):
        axes.grid(axis="x")
        for row, (_, one) in enumerate(means[means["value"] == name].iterrows()):
            group = str(one["group"])
            theme.dots_with_intervals(
                axes, [row], [one["mean"]], [one["low"]], [one["high"]], look.colour(group), look.mark(group)
            )
        theme.name_rows(axes, groups)
        axes.xaxis.set_major_locator(MaxNLocator(6))
        axes.set_title(theme.plain(name))
    theme.heading(figure, settings, "Contrast: group means")
    theme.caption(
        figure,
        [
            f"{MEAN_WITH_INTERVAL}, a scale for each value. {ALIKE}{_cut(means)}{hidden}",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def draw_documents(result: Result, settings: ContrastChartSettings) -> Figure:
    """Every document a dot, one panel per value; the mean of each group with its interval beside it."""
    names, hidden = _shown(result, settings, MOST_PANELS)
    frame, look = _values(result), GroupLook(result.groups, settings.chart_colors)
    groups = [size.name for size in result.groups]
    means = possible_means(frame, names, groups, _documents(result).columns).set_index(["value", "group"])
    figure, panels = _panels(len(names), len(groups) * 0.42 + 1.1)
    chance = np.random.default_rng(1)
    for axes, name in zip(panels, names, strict=True):
        axes.grid(axis="x")
        for row, group in enumerate(groups):
            x = frame.loc[(frame["group"] == group) & frame[name].notna(), name].to_numpy(dtype=float)
            # dots of equal values are set apart, always in the same way
            at = row + chance.uniform(-0.28, 0.28, len(x))
            size = float(np.clip(2200 / max(len(x), 1), 3, 26))
            axes.scatter(x, at, s=size, color=look.colour(group), alpha=0.45, linewidths=0)
            mean = means.loc[(name, group)]
            axes.hlines(row, mean["low"], mean["high"], color=theme.INK, linewidth=2)
            axes.plot([mean["mean"]], [row], look.mark(group), color=theme.INK, markersize=6, markerfacecolor="white")
        theme.name_rows(axes, groups)
        axes.set_title(theme.plain(name))
    theme.heading(figure, settings, "Contrast: every document")
    theme.caption(
        figure,
        [
            "Each dot a document, set apart upwards and downwards only to be seen; in black the mean of the group "
            f"with its 95 % interval (Student's t).{_cut(means)}{hidden}",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def draw_effects(result: Result, settings: ContrastChartSettings) -> Figure:
    """Hedges' g of each value with its interval, one panel per pair of groups."""
    frame = result.frame[result.frame["hedges_g"].notna()]
    if frame.empty:
        raise DataError(
            "there is nothing to draw: no value has an effect size", "give each group two documents or more"
        )
    pairs = list(frame.groupby(["group_a", "group_b"], sort=False))
    names, hidden = _shown(result, settings)
    more = f" {len(pairs) - MOST_PANELS:,} more pairs are not drawn." if len(pairs) > MOST_PANELS else ""
    look = GroupLook(result.groups, settings.chart_colors)
    figure, panels = _panels(min(len(pairs), MOST_PANELS), len(names) * 0.26 + 1.3)
    reach = 1.08 * float(np.nanmax(np.abs(frame[["hedges_g_low", "hedges_g_high"]].to_numpy(dtype=float))))
    for axes, ((first, second), of_pair) in zip(panels, pairs, strict=False):
        present = [name for name in names if name in set(of_pair["value"])]
        rows = of_pair.set_index("value").loc[present].reset_index()
        axes.grid(axis="x")
        axes.axvline(0, color=theme.INK, linewidth=1)
        for row, one in rows.iterrows():
            side = one["higher_in"] or first
            sure = one["p_adjusted"] < ALPHA
            theme.dots_with_intervals(
                axes,
                [int(str(row))],
                [one["hedges_g"]],
                [one["hedges_g_low"]],
                [one["hedges_g_high"]],
                look.colour(side),
                look.mark(side),
                filled=bool(sure),
            )
        theme.name_rows(axes, rows["value"].tolist())
        axes.set_xlim(-reach, reach)
        axes.xaxis.set_major_locator(MaxNLocator(5, prune="both"))
        axes.set_xlabel("Hedges' g (standard deviations)")
        theme.name_the_ends(axes, first, second, look)
    theme.heading(figure, settings, "Contrast: how large the differences are")
    theme.caption(
        figure,
        [
            "Hedges' g with its 95 % interval, on the side of the group with the higher mean; filled where the "
            f"adjusted p of Welch's test is below {ALPHA:g}. The largest first.{hidden}{more}",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def draw_development(result: Result, settings: ContrastChartSettings) -> Figure:
    """The mean of each group at each part of the texts, with its interval as a band; one panel per value."""
    names, hidden = _shown(result, settings, MOST_PANELS)
    frame, cut = _values(result), ""
    if "part" not in frame.columns:
        raise DataError(
            "--chart-kind development: the texts are not cut into parts", "type --unit parts:12 or --unit words:500"
        )
    look, groups = GroupLook(result.groups, settings.chart_colors), [size.name for size in result.groups]
    figure, panels = _panels(len(names), 2.6)
    for axes, name in zip(panels, names, strict=True):
        axes.grid(axis="y")
        for group in groups:
            here = frame[frame["group"] == group]
            parts = sorted(here["part"].dropna().unique())
            means = possible_means(here.assign(group=here["part"]), [name], parts, _documents(result).columns)
            cut = cut or _cut(means)
            if (means["n"] > 1).any():
                axes.fill_between(
                    means["group"], means["low"], means["high"], color=look.colour(group), alpha=0.16, linewidth=0
                )
            axes.plot(
                means["group"],
                means["mean"],
                marker=look.mark(group),
                color=look.colour(group),
                markersize=4,
                linewidth=1.5,
            )
        axes.set_title(theme.plain(name))
        axes.set_xlabel("part of the text")
        locator = axes.xaxis.get_major_locator()
        assert isinstance(locator, MaxNLocator)
        locator.set_params(integer=True)
    theme.legend_of(figure, look, groups)
    theme.heading(figure, settings, "Development within texts")
    theme.caption(
        figure,
        [
            f"Mean over the texts of a group at each of their parts{_unit(result)}, with its 95 % interval as a band "
            f"(none where a group has one text).{cut}{hidden}",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def draw_heat(result: Result, settings: ContrastChartSettings) -> Figure:
    """Groups, or up to sixty documents, by values, each value in standard deviations from its mean."""
    names, hidden = _shown(result, settings)
    frame = _values(result)
    by_document = len(frame) <= MOST_ROWS
    table = frame[names].astype(float)
    spread = table.std(ddof=1)
    scaled = (table - table.mean()) / spread.where(spread > 0)
    if by_document:
        rows = [f"{name} ({group})" for name, group in zip(frame["document"], frame["group"], strict=True)]
    else:
        scaled = scaled.groupby(frame["group"].to_numpy()).mean().reindex([size.name for size in result.groups])
        rows = scaled.index.tolist()
    figure = theme.new_figure(max(theme.least_height(), len(rows) * 0.26 + 2.6))
    axes = figure.subplots()
    reach = float(np.nanmax(np.abs(scaled.to_numpy()), initial=0.1))
    shades = settings.chart_colors[0] if is_map(settings.chart_colors) else "PuOr_r"
    image = axes.imshow(
        scaled.to_numpy(),
        aspect="auto",
        cmap=shades,
        vmin=-reach,
        vmax=reach,
    )
    axes.set_xticks(range(len(names)), [theme.plain(name, 18) for name in names], rotation=40, ha="right")
    axes.set_yticks(range(len(rows)), [theme.plain(row) for row in rows])
    if len(rows) * len(names) <= 400:
        for row, column in np.ndindex(scaled.shape):
            value = scaled.to_numpy()[row, column]
            if not math.isnan(value):
                ink = "white" if abs(value) > 0.65 * reach else theme.INK
                shown = f"{value:.2f}".replace("-", "−") if round(abs(value), 2) else "0"
                axes.text(column, row, shown, ha="center", va="center", fontsize=8.5, color=ink)
    axes.tick_params(length=0)
    axes.spines[:].set_visible(False)
    figure.colorbar(image, ax=axes, label="standard deviations from the mean of all documents", shrink=0.8)
    what = "Documents" if by_document else "Means of groups"
    theme.heading(figure, settings, f"Contrast: {what.lower()} by value")
    theme.caption(
        figure,
        [
            f"{what}, each value in standard deviations of all documents from their mean{_ends(settings)}.{hidden}",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def _ends(settings: ContrastChartSettings) -> str:
    return "" if is_map(settings.chart_colors) else ": orange above, violet below"


def _unit(result: Result) -> str:
    """The unit of categories in words; measures and fields have their own units."""
    if "dictionary" not in result.settings or "values" in result.settings:
        return ""
    return f", {scale_unit(str(result.settings.get('scale', 'percent')))}"


def _cut(means: pd.DataFrame) -> str:
    return CUT if means["cut"].any() else ""


def _values(result: Result) -> pd.DataFrame:
    return _documents(result).frame


def _documents(result: Result) -> Result:
    """The values of the documents, of which a saved table of contrasts has none."""
    if "documents" not in result.tables:
        raise DataError(
            "this figure needs the values of the documents, which a saved table of contrasts does not have",
            "draw it with contrast and --chart, or choose --chart-kind effects",
        )
    return result.tables["documents"]


def _shown(result: Result, settings: ContrastChartSettings, most: int = 0) -> tuple[list[str], str]:
    """The values with the largest effects, and a sentence on those that are not drawn."""
    if "hedges_g" not in result.frame.columns:
        every, values = list(dict.fromkeys(result.frame["value"])), _values(result)
        names = [name for name in every if values[name].nunique() > 1] or every
        limit = min(settings.most_drawn(), most) if most else settings.most_drawn()
        said = [numbered(len(names) - limit, "more value")] if len(names) > limit else []
        said += [numbered(len(every) - len(names), "constant value")] if len(names) < len(every) else []
        return names[:limit], f" Not drawn: {', '.join(said)}." if said else ""
    size = result.frame.assign(size=result.frame["hedges_g"].abs()).groupby("value", sort=False)["size"].max()
    order = size.dropna().sort_values(ascending=False, kind="stable").index.tolist()
    # where nothing has an effect size, as with one document per group, everything is drawn
    order = order or size.index.tolist()
    limit = min(settings.most_drawn(), most) if most else settings.most_drawn()
    smaller, none = max(len(order) - limit, 0), len(size) - len(order)
    said = [f"{smaller} values with smaller effects"] if smaller else []
    said += [f"{none} without an effect size"] if none else []
    return order[:limit], f" Not drawn: {', '.join(said)}." if said else ""


def _panels(number: int, height: float) -> tuple[Figure, list[Axes]]:
    return panels_of(number, 1 if number == 1 else 2 if number in (2, 4) else 3, height, 1.4)


_OF_ONE_GROUP: Figures = {
    "development": draw_development,
    "means": draw,
    "documents": draw_documents,
    "heat": draw_heat,
}
FIGURES: Mapping[str, Figures] = {
    "contrast": {
        "means": draw,
        "documents": draw_documents,
        "effects": draw_effects,
        "development": draw_development,
        "heat": draw_heat,
    },
    # of one group, with which nothing is compared
    "trend": _OF_ONE_GROUP,
}
