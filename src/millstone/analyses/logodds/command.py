"""Weighted log odds of terms."""

from millstone.analyses.base.command import Command
from millstone.analyses.logodds.settings import LogOddsSettings
from millstone.outputs.charts.settings import LogOddsChartSettings

COMMAND = Command(
    "logodds",
    "weighted log odds of terms, per group",
    LogOddsSettings,
    LogOddsChartSettings,
    "log_odds is above 0 for what the group uses more; terms are in the order of z, the log odds by their\n"
    "standard error, which is not a test: the pooled prior is made of the same texts.",
    (
        "logodds guestbook.csv --text entry --group hut --stop en",
        "logodds guestbook.csv --text entry --group season --against winter --top 8",
        "logodds journals --prior uniform --chart logodds.png --panels group",
    ),
    heading="compare",
    accepts_frequency_lists=True,
)
