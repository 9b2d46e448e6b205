"""The settings of charts."""

from dataclasses import dataclass

from millstone.core.declare import choice, path, setting, whole

ENDINGS = (".png", ".svg", ".pdf")


@dataclass(frozen=True)
class ChartSettings:
    """The figure of a result."""

    chart: str = setting(path("FILE"), "", "draw the result as well: .png, .svg or .pdf")
    chart_top: int = setting(whole("N", 1), 15, "how many terms or categories of each side, group or panel to draw")


@dataclass(frozen=True)
class PanelChartSettings(ChartSettings):
    """The figure of log odds."""

    panels: str = setting(
        choice("auto", "group", "term"),
        "auto",
        "a panel a group or a panel a term (auto: whichever is fewer)",
    )
