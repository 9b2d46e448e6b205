"""The settings of charts."""

from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import nearest
from millstone.core.settings.declare import setting
from millstone.core.settings.kind import Kind
from millstone.core.settings.kinds import (
    choice,
    figure_size,
    free_text,
    integer,
    names,
    output_path,
    share,
    sizes,
    switch,
    terms,
)
from millstone.outputs.charts.colour_maps import MAPS

ENDINGS = (".png", ".svg", ".pdf")
OF_PAGE = "page"
"""Beside the endings of files, the drawing for a page, its letters as outlines."""


MOST_DRAWN = 500
"""More terms no figure draws."""
_OTHERS, _WORDS = 15, 60


def _read_colours(typed: str) -> tuple[str, ...]:
    # a plotting library takes long to import, and few name colours
    from millstone.outputs.charts.colours import is_known

    given = tuple(part.strip() for part in typed.split(",") if part.strip())
    for one in given:
        if not is_known(one):
            raise ValueError(
                f"must be names of colours such as teal, #rrggbb, or a colour map, not {one!r}{nearest(one, MAPS)}; "
                f"colour maps are {', '.join(MAPS)} and the others of the plotting library"
            )
    if len(given) > 1 and (among := next((one for one in given if one in MAPS), "")):
        raise ValueError(f"must be a colour per group or one colour map: {among} is a map")
    return given


@frozen
class ChartSettings:
    """The figure of a result."""

    chart: str = setting(
        output_path("FILE|FOLDER/"),
        "",
        "draw the result: .png, .svg or .pdf; FOLDER/: one per group",
    )
    chart_top: int = setting(
        integer("N", 1, most=MOST_DRAWN), 0, "draw N terms or categories per group or side (default: 15)"
    )
    chart_title: str = setting(free_text("TEXT"), "", "the title of the figure, instead of the default", rare=True)
    chart_colors: tuple[str, ...] = setting(
        Kind("A,B|MAP", _read_colours, joined_by=","),
        (),
        "a colour per group, by name or #rrggbb, in the order of the groups; or a colour map, such as viridis",
        rare=True,
    )
    chart_size: tuple[float, float, str] | None = setting(
        figure_size("WxH[in|mm|px]"), None, "the size of the figure, such as 160x90mm (default: 12.8x8in)", rare=True
    )
    chart_dpi: int = setting(integer("N", 30, most=1200), 100, "the resolution of .png, in dots per inch", rare=True)
    chart_font: str = setting(
        free_text("NAME"), "", "the font family of the figure, one that is installed", rare=True
    )
    chart_highlight: tuple[str, ...] = setting(
        terms("TERM,..."), (), "draw these terms in colour and all others in grey", rare=True
    )
    chart_outlines: bool = setting(
        switch(),
        False,
        "in .svg draw letters as outlines, which look alike everywhere and cannot be searched",
        rare=True,
    )
    chart_kind = ""

    def most_drawn(self, usual: int = _OTHERS) -> int:
        """How many terms or categories are drawn, where a figure usually draws so many."""
        return self.chart_top or usual


@frozen
class CloudSettings(ChartSettings):
    """Settings of word clouds, besides those of all figures."""

    chart_top: int = setting(
        integer("N", 1, most=MOST_DRAWN), 0, "draw N terms per group or side (default: 15; cloud: 60)"
    )
    chart_sizes: tuple[int, int] = setting(
        sizes("MIN..MAX", 400),
        (6, 96),
        "clouds: sizes of words in points; where room is short all shrink together",
        rare=True,
    )
    chart_upright: float = setting(
        share("X", or_none=True),
        1.0,
        "clouds: the share of words that stand upright, 0 to 1; the others are turned",
        rare=True,
    )

    def words_drawn(self) -> int:
        """How many words of a group are drawn."""
        return self.most_drawn(_WORDS)


@frozen
class SeededCloudSettings(CloudSettings):
    """Settings of word clouds for a command that draws nothing else at random."""

    seed: int = setting(integer("N"), 1, "the seed of random draws; the same seed gives the same result", rare=True)


@frozen
class KeynessChartSettings(CloudSettings):
    """The figure of keyness."""

    chart_kind: str = setting(
        choice("intervals", "evidence", "frequencies", "ranks", "cloud"),
        "intervals",
        "which figure",
    )


@frozen
class LogOddsChartSettings(SeededCloudSettings):
    """The figure of log odds."""

    chart_kind: str = setting(
        choice("panels", "scores", "cloud"),
        "panels",
        "log odds with intervals; z against frequency; or a cloud of each group's terms",
    )
    panels: str = setting(
        choice("auto", "group", "term"),
        "auto",
        "one panel per group, or one per term (auto: the fewer)",
    )


@frozen
class FrequencyChartSettings(SeededCloudSettings):
    """The figure of frequency lists."""

    chart_kind: str = setting(
        choice("terms", "cloud", "rank", "share", "growth"),
        "terms",
        "the commonest terms of each group; a word cloud of each; rank against frequency; the share of the text that "
        "the commonest terms make up; or how the vocabulary grows",
    )


@frozen
class ProfileChartSettings(ChartSettings):
    """The figure of a profile."""

    chart_measures: tuple[str, ...] = setting(
        names("A,B"), ("mattr", "mtld", "mean_sentence_length"), "the measures to draw, a panel each"
    )


@frozen
class ContrastChartSettings(ChartSettings):
    """The figure of contrasts."""

    chart_kind: str = setting(
        choice("means", "documents", "effects", "development", "heat"),
        "means",
        "means; every document; effect sizes; development over parts; a heat map",
    )


@frozen
class TrendChartSettings(ChartSettings):
    """The figure of trends."""

    chart_kind: str = setting(
        choice("courses", "slopes"),
        "courses",
        "the rates of terms in each period with their fit; or how fast they change",
    )


@frozen
class CurveChartSettings(ChartSettings):
    """The figure of a result under many settings."""

    chart_top: int = setting(
        integer("N", 1, most=MOST_DRAWN), 0, "draw N terms, a panel each: those that pass most often (default: 4)"
    )
    chart_kind: str = setting(
        choice("curve"), "curve", "effects in order of size, and below them which settings they are of", rare=True
    )


@frozen
class DispersionChartSettings(ChartSettings):
    """The figure of dispersion."""

    chart_kind: str = setting(
        choice("places", "evenness"),
        "",
        "every place of the nodes, or dp against frequency (default: places with --find, else evenness)",
    )


@frozen
class NetworkChartSettings(ChartSettings):
    """The figure of a network."""

    chart_kind: str = setting(choice("map", "links"), "map", "a map of the terms, or the strongest links")
    chart_marks: str = setting(
        choice("docs", "freq", "degree", "strength", "betweenness"),
        "docs",
        "map: what the area of a mark grows with; docs: the units with the term",
        rare=True,
    )


@frozen
class AnyChartSettings(LogOddsChartSettings, ProfileChartSettings, NetworkChartSettings):
    """Settings of the figure of a saved table, whatever its kind."""

    chart_kind: str = setting(
        free_text("KIND"),
        "",
        "which figure, of those that the help of the table's command lists (default: its first)",
    )
