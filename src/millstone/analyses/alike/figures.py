"""Words used alike, drawn."""

from collections.abc import Mapping

from matplotlib.figure import Figure

from millstone.core.tables.result import Result
from millstone.outputs.charts.bars import BarList, draw_bars
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.settings import ChartSettings


def draw_alike(result: Result, settings: ChartSettings) -> Figure:
    """The terms most alike to each node."""
    lists = []
    several = result.frame["group"].nunique() > 1
    for (group, node), every in result.frame.groupby(["group", "node"], sort=False):
        rows = every.head(settings.most_drawn())
        title = f"{node} ({group})" if several else str(node)
        beside = [f"{number:,}" for number in rows["shared_contexts"]]
        lists.append(BarList(title, str(group), rows["term"].tolist(), rows["similarity"].tolist(), beside))
    return draw_bars(
        result,
        settings,
        lists,
        "similarity",
        "shared",
        "Words used alike",
        f"The {settings.most_drawn()} most alike terms at most: cosine of their contexts, which are the words one "
        "and two places before and after; at the right, how many contexts the two share.",
    )


FIGURES: Mapping[str, Figures] = {"alike": {"bars": draw_alike}}
