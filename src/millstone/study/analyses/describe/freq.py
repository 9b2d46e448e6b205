"""Frequency lists."""

from collections.abc import Collection
from typing import TYPE_CHECKING

from millstone.charts.settings import FrequencyChartSettings
from millstone.core.layout import Layout
from millstone.core.settings.analyses import FrequencySettings
from millstone.study.command import Command, places_of_terms

if TYPE_CHECKING:
    from millstone.charts.draw import Figures
    from millstone.core.result import Result
    from millstone.study.command import Drawing
    from millstone.study.step import Step
    from millstone.study.texts.material import Material


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """A frequency list for each group, or the groups side by side."""
    from millstone.core.describe.frequency import frequency_list, side_by_side
    from millstone.core.describe.profile import vocabulary_growth
    from millstone.study.texts.term_counts import counted_terms

    terms = counted_terms(step, material, notes)
    terms.note_lone_documents("dp is empty", notes)
    list_of = side_by_side if step.settings.wide else frequency_list
    result = terms.result(step, terms.table(lambda counts: list_of(counts, step.settings)), notes)
    if not shows_growth(step):
        return result
    return result.with_table("growth", vocabulary_growth(terms.prepared.corpus, terms.prepared.term_map))


def shows_growth(step: "Step") -> bool:
    """Whether the growth of the vocabulary is to be drawn."""
    return bool(step.chart.chart) and step.chart.chart_kind == "growth"


def columns(step: "Step") -> Collection[str]:
    """The columns that its table may have."""
    if step.settings.wide:
        return ()
    return (
        *("group", "rank", "term", "n", "freq", "per_million", "docs", "docs_percent", "dp"),
        *("dp_expected", "evenness", "mi", "t_score", "log_dice", "forms"),
    )


def figures(result: str) -> "Figures":
    """The figures of its table."""
    from millstone.charts.figures import cloud, frequency

    return {
        "terms": frequency.draw_lists,
        "cloud": cloud.draw_frequencies,
        "rank": frequency.draw_ranks,
        "share": frequency.draw_shares,
        "growth": frequency.draw_growth,
    }


COMMAND = Command(
    "freq",
    "frequency lists, one per group",
    FrequencySettings,
    FrequencyChartSettings,
    "Ranks are among the kept terms; equal frequencies share a rank. Rates are per million of all word\n"
    "tokens of the group, left-out ones too, so a stop list never changes a rate. dp is near 0\n"
    "for a term spread evenly over the documents, near 1 for one that few of them hold (Gries 2008); a rare term\n"
    "cannot be near 0: evenness is 1 where it is spread as chance would spread it.",
    (
        "freq guestbook.csv --text entry --group hut --stop en",
        "freq journals --stop en --length 4.. --top 10",
        "freq guestbook.csv --text entry --group hut --ngram 2..3 --stop en --bridge --min-log-dice 10",
        "freq guestbook.csv --text entry --min-freq 5 -o words.xlsx --chart words.png",
    ),
    analyse,
    least=lambda step: 1 if shows_growth(step) else step.settings.min_freq,
    row_limits=lambda step: (step.settings.min_freq, step.settings.min_docs),
    layout=Layout(
        blocks=("group",),
        shown=(
            *("rank", "term", "n", "freq", "per_million", "docs", "docs_percent", "dp"),
            *("evenness", "mi", "t_score", "log_dice", "forms"),
        ),
        leaving=(
            *("t_score", "per_million", "docs_percent", "mi", "docs", "dp", "evenness", "log_dice", "forms", "n"),
            "rank",
        ),
        beside="freq_",
        leaving_beside=("docs", "rank", "per_million"),
        marks=("group", "term", "freq", "per_million"),
        drawn=("group", "rank", "term", "freq", "per_million"),
    ),
    columns=columns,
    places_of=places_of_terms,
    figures=figures,
    looks_at_order=shows_growth,
    of_terms=True,
)
