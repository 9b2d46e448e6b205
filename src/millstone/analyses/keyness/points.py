"""Keyness with every term as a point: log ratio against evidence, frequency against frequency."""

from dataclasses import replace

import numpy as np
import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from millstone.analyses.keyness.comparing.comparison import STATISTIC
from millstone.analyses.keyness.comparing.notes import test_in_force
from millstone.analyses.keyness.comparing.selection import KeyRule, key_rule
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.colours import SOFT, GroupLook
from millstone.outputs.charts.labels import name_points
from millstone.outputs.charts.points import panels_by, sizes_of
from millstone.outputs.charts.settings import ChartSettings


def draw_evidence(result: Result, settings: ChartSettings) -> Figure:
    """Log ratio against the statistic of the test, or against p, with the thresholds that make a term key."""
    look, rule = GroupLook(result.groups, settings.chart_colors), _key_rule(result)
    result = _with_all(result)
    figure, panels = panels_by(result, ["target", "reference"])
    for axes, rows in panels:
        frame = rows[rows["log_ratio"].notna() & rows["p_adjusted"].notna()]
        height, name = _evidence(frame, result)
        passes = _passes(frame, rule)
        _scatter(axes, frame["log_ratio"].to_numpy(), height, frame, passes, look)
        if name != "p_adjusted":
            axes.set_yscale("function", functions=(lambda v: np.sqrt(np.maximum(v, 0)), np.square))
        threshold = None if rule.alpha is None else _between(height, (frame["p_adjusted"] < rule.alpha).to_numpy())
        if threshold is not None:
            axes.axhline(threshold, color=SOFT, linewidth=1, linestyle=(0, (4, 3)))
        least = rule.least_ratio
        for at in (-least, least) if least else (0,):
            axes.axvline(at, color=SOFT, linewidth=1, linestyle=(0, (4, 3)) if least else "solid")
        reach = 1.08 * frame["log_ratio"].abs().max()
        axes.set_xlim(-reach, reach)
        axes.set_ylim(0, None)
        axes.set_xlabel("log ratio (log2 of the two rates)")
        axes.set_ylabel("−log10 of adjusted p" if name == "p_adjusted" else f"{name}, evidence (square-root scale)")
        theme.name_the_ends(axes, frame["target"].iloc[0], frame["reference"].iloc[0], look)
        _name(axes, frame, frame["log_ratio"].to_numpy(), height, passes, settings.most_drawn(), look)
    theme.heading(figure, settings, "Keyness: how large the differences are, and how sure")
    theme.caption(
        figure,
        [
            _in_words(rule, result) + " Large: terms that pass; the strongest are named where there is room.",
            sizes_of(result),
        ],
    )
    return figure


def draw_frequencies(result: Result, settings: ChartSettings) -> Figure:
    """The rate of each term on both sides, on logarithmic axes; the line is equal rates."""
    look, rule, result = GroupLook(result.groups, settings.chart_colors), _key_rule(result), _with_all(result)
    figure, panels = panels_by(result, ["target", "reference"])
    for axes, frame in panels:
        target, reference = frame["target"].iloc[0], frame["reference"].iloc[0]
        x, absent_x = _rates(frame["per_million_reference"])
        y, absent_y = _rates(frame["per_million_target"])
        passes = _passes(frame, rule)
        theme.logarithmic(axes, "x")
        theme.logarithmic(axes, "y")
        _scatter(axes, x, y, frame, passes, look)
        low, high = min(x.min(), y.min()) / 1.5, max(x.max(), y.max()) * 1.5
        axes.plot([low, high], [low, high], color=theme.INK, linewidth=1)
        axes.set_xlim(low, high)
        axes.set_ylim(low, high)
        for is_absent, line in ((absent_x, axes.axvline), (absent_y, axes.axhline)):
            if is_absent is not None:
                line(is_absent, color=theme.FAINT, linewidth=6, zorder=0)
        axes.set_xlabel(theme.plain(f"per million tokens in {reference}"), color=look.text_colour(reference))
        axes.set_ylabel(theme.plain(f"per million tokens in {target}"), color=look.text_colour(target))
        _name(axes, frame, x, y, passes, settings.most_drawn(), look)
    theme.heading(figure, settings, "Keyness: how frequent each term is on both sides")
    theme.caption(
        figure,
        [
            f"{_in_words(rule, result)} Large: terms that pass, above the line those of the upright axis; the "
            "strongest are named where there is room. On the grey bands: terms absent from that side.",
            sizes_of(result),
        ],
    )
    return figure


def _scatter(
    axes: Axes, x: np.ndarray, y: np.ndarray, frame: pd.DataFrame, passes: np.ndarray, look: GroupLook
) -> None:
    axes.scatter(x[~passes], y[~passes], s=9, color=SOFT, alpha=0.35, linewidths=0)
    for side in (frame["target"].iloc[0], frame["reference"].iloc[0]):
        here = passes & (frame["higher_in"] == side).to_numpy()
        axes.scatter(x[here], y[here], s=22, color=look.colour(side), marker=look.mark(side), linewidths=0)


def _name(
    axes: Axes, frame: pd.DataFrame, x: np.ndarray, y: np.ndarray, passes: np.ndarray, top: int, look: GroupLook
) -> None:
    ranked = frame.assign(place=np.arange(len(frame)))[passes]
    first = ranked.sort_values("rank", kind="stable").groupby("higher_in", sort=False).head(top)
    first = first.sort_values("rank", kind="stable")
    at = first["place"].to_numpy()
    colours = [look.text_colour(one) for one in first["higher_in"]]
    others = passes.copy()
    others[at] = False
    name_points(axes, x[at], y[at], first["term"].tolist(), colours, (x[others], y[others]))


def _rates(rates: pd.Series) -> tuple[np.ndarray, float | None]:
    """Rates for a logarithmic axis, and where those stand that are 0."""
    values = rates.to_numpy(dtype=float)
    present = values[values > 0]
    if len(present) == len(values) or not len(present):
        return np.maximum(values, 1e-9), None
    below = present.min() / 2.5
    return np.where(values > 0, values, below), below


def _evidence(frame: pd.DataFrame, result: Result) -> tuple[np.ndarray, str]:
    statistic = STATISTIC.get(test_in_force(result), "")
    if statistic in frame.columns:
        return frame[statistic].to_numpy(dtype=float), statistic
    return -np.log10(np.maximum(frame["p_adjusted"].to_numpy(dtype=float), 1e-300)), "p_adjusted"


def _between(height: np.ndarray, passes: np.ndarray) -> float | None:
    """The height at which terms begin to pass, if any do."""
    if not passes.any():
        return None
    least, most = height[passes].min(), height[~passes].max(initial=0)
    # rows that do not pass may have been hidden
    return float((least + most) / 2) if most <= least and not passes.all() else float(least)


def _with_all(result: Result) -> Result:
    """The result with all terms that were compared, where only some of them are in its table."""
    return replace(result, table=result.tables["compared"].table) if "compared" in result.tables else result


def _key_rule(result: Result) -> KeyRule:
    """The rule that makes a term key, as it was asked for."""
    asked = {
        name: float(str(result.settings[name])) for name in ("alpha", "min_log_ratio") if name in result.settings
    }
    return key_rule(asked.get("alpha"), asked.get("min_log_ratio"), str(result.settings.get("direction", "both")))


def _passes(frame: pd.DataFrame, rule: KeyRule) -> np.ndarray:
    side = (frame["higher_in"] == frame["target"]).astype(int) - (frame["higher_in"] == frame["reference"])
    return rule.chooses(frame["p_adjusted"], frame["log_ratio"], side)


def _in_words(rule: KeyRule, result: Result) -> str:
    test = test_in_force(result)
    rules = [] if rule.alpha is None else [f"an adjusted p ({test}) below {rule.alpha:g}"]
    rules += [] if rule.least_ratio is None else [f"a log ratio of {rule.least_ratio:g} or more either way"]
    rules += [] if rule.direction == "both" else [f"a higher rate in the {rule.direction}"]
    return f"A term passes with {' and '.join(rules)}."
