"""Trend: what rises and falls over time."""

from millstone.analyses.base.command import Command
from millstone.analyses.trend.settings import TrendSettings
from millstone.outputs.charts.settings import TrendChartSettings

COMMAND = Command(
    "trend",
    "which terms rise or fall over ordered periods?",
    TrendSettings,
    TrendChartSettings,
    "Each period is one observation: a rate that changes by the same percentage per unit of FIELD is fitted, and p\n"
    "says whether it changes at all, beyond how much rates vary from period to period. One loud period is named.",
    (
        "trend guestbook.csv --text entry --over date --period quarter --stop en --top 8",
        "trend guestbook.csv --text entry --over date --period quarter --dictionary dictionary.toml",
        "trend guestbook.csv --text entry --group hut --over date --period quarter --direction rises --top 3",
    ),
    heading="compare",
    counts_fields=True,
)
