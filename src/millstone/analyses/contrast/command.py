"""Differences between groups in values of their documents."""

from millstone.analyses.base.command import Command
from millstone.analyses.contrast.settings import ContrastSettings
from millstone.outputs.charts.settings import ContrastChartSettings

COMMAND = Command(
    "contrast",
    "by how much do groups differ in a value of their documents?",
    ContrastSettings,
    ContrastChartSettings,
    "Each document is one observation. difference is that of the means, hedges_g the same in standard\n"
    "deviations. Of a dictionary log_ratio compares places per token, --corrected-by shares of units.",
    (
        "contrast guestbook.csv --text entry --group hut --dictionary dictionary.toml --select weather,fear",
        "contrast guestbook.csv --text entry --group hut --values tokens,mean_word_length --against Ostrel",
        "contrast journals --dictionary dictionary.toml --unit parts:10 --trend trend.csv --chart trend.png "
        "--chart-kind development",
    ),
    heading="compare",
    tables=("omnibus", "trend"),
)
