"""Frequency lists."""

from millstone.analyses.base.command import Command
from millstone.analyses.freq.settings import FrequencySettings
from millstone.outputs.charts.settings import FrequencyChartSettings

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
    heading="count",
    accepts_frequency_lists=True,
)
