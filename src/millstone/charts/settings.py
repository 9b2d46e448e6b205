"""The settings of charts."""

from dataclasses import dataclass

from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import choice, free_text, names, result, whole

ENDINGS = (".png", ".svg", ".pdf")


@dataclass(frozen=True)
class ChartSettings:
    """The figure of a result."""

    chart: str = setting(result("FILE"), "", "draw the result as well: .png, .svg or .pdf")
    chart_top: int = setting(whole("N", 1, most=500), 15, "draw N terms or categories per group or side")
    chart_kind = ""


@dataclass(frozen=True)
class KeynessChartSettings(ChartSettings):
    """The figure of keyness."""

    chart_kind: str = setting(
        choice("intervals", "evidence", "frequencies", "ranks", "cloud"),
        "intervals",
        "which figure",
    )


@dataclass(frozen=True)
class LogOddsChartSettings(ChartSettings):
    """The figure of log odds."""

    chart_kind: str = setting(
        choice("panels", "scores"), "panels", "log odds with intervals, or z against frequency", rare=True
    )
    panels: str = setting(
        choice("auto", "group", "term"),
        "auto",
        "one panel per group, or one per term (auto: the fewer)",
    )


@dataclass(frozen=True)
class FrequencyChartSettings(ChartSettings):
    """The figure of frequency lists."""

    chart_kind: str = setting(
        choice("terms", "rank", "share", "growth"),
        "terms",
        "the commonest terms of each group; rank against frequency; the share of the text that the commonest terms "
        "make up; or how the vocabulary grows",
    )


@dataclass(frozen=True)
class ProfileChartSettings(ChartSettings):
    """The figure of a profile."""

    chart_measures: tuple[str, ...] = setting(
        names("A,B"), ("mattr", "mtld", "mean_sentence_length"), "the measures to draw, a panel each"
    )


@dataclass(frozen=True)
class ContrastChartSettings(ChartSettings):
    """The figure of contrasts."""

    chart_kind: str = setting(
        choice("means", "documents", "effects", "development", "heat"),
        "means",
        "means of the groups; every document; effect sizes; development from part to part; or a heat map",
    )


@dataclass(frozen=True)
class DispersionChartSettings(ChartSettings):
    """The figure of dispersion."""

    chart_kind: str = setting(
        choice("places", "evenness"),
        "",
        "every place of the nodes, or dp against frequency (default: places with --find, else evenness)",
    )


@dataclass(frozen=True)
class NetworkChartSettings(ChartSettings):
    """The figure of a network."""

    chart_kind: str = setting(choice("map", "links"), "map", "a map of the terms, or the strongest links")


@dataclass(frozen=True)
class AnyChartSettings(LogOddsChartSettings, ProfileChartSettings):
    """What can be asked of the figure of a saved table, whatever its kind."""

    chart_kind: str = setting(
        free_text("KIND"),
        "",
        "which figure, of those that the help of the table's command lists (default: its first)",
    )
