"""Alike: words used in contexts like those of an expression."""

from millstone.analyses.alike.settings import AlikeSettings
from millstone.analyses.base.command import Command
from millstone.outputs.charts.settings import ChartSettings

COMMAND = Command(
    "alike",
    "which words are used like an expression?",
    AlikeSettings,
    ChartSettings,
    "Two words are alike that have the same neighbours: one or two words before and after, each at its distance,\n"
    "within the sentence. Such lists bring together words of one kind, opposites too. contexts shows what made a\n"
    "term alike; _ is where the word stands.",
    (
        "alike guestbook.csv --text entry --find stove --stop en --top 10",
        "alike guestbook.csv --text entry --find 'soup, porridge' --stop en --min-freq 10 --top 10",
        "alike guestbook.csv --text entry --group hut --find path --stop en --difference -",
    ),
    heading="relate",
    tables=("difference",),
)
