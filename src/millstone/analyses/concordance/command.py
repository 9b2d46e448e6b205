"""Concordance: every place of an expression, in its context."""

from millstone.analyses.base.command import Command
from millstone.analyses.concordance.settings import ConcordanceSettings

COMMAND = Command(
    "concordance",
    "every place of an expression, in its context",
    ConcordanceSettings,
    None,
    "Each line is a place, with the text around it as it stands. line is its number in the order in which texts are\n"
    "read, and stays with it when lines are sorted or drawn. --sort left|right|found|document|random|FIELD: left\n"
    "and right go word by word from the place outwards.",
    (
        "concordance guestbook.csv --text entry --id entry_id --group hut --find stove --sort right",
        "concordance journals --find 'path*, trail*' --near 'closed, washed' --context sentence",
        "concordance guestbook.csv --text entry --id entry_id --find ahoy --per-document -o ahoy.csv",
    ),
    heading="read",
)
