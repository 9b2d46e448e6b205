"""Profiles of groups or documents."""

from millstone.analyses.base.command import Command
from millstone.analyses.profile.settings import ProfileSettings
from millstone.outputs.charts.settings import ProfileChartSettings

COMMAND = Command(
    "profile",
    "how large, how varied, how repetitive is each group?",
    ProfileSettings,
    ProfileChartSettings,
    "tokens are all words, kept_tokens those that no rule left out; all the rest is computed on these, in\n"
    "the order of the text. ttr falls as texts get longer, so compare groups of different size by msttr,\n"
    "mattr or mtld. A measure is empty where there are too few tokens for it.",
    (
        "profile guestbook.csv --text entry --group hut",
        "profile journals --lemmas en --window 200",
        "profile journals --per-document --segment 500 -o journals.csv --chart journals.png",
    ),
    heading="count",
)
