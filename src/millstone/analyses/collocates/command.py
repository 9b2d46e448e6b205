"""Collocates: what occurs near an expression more often than chance would have it."""

from millstone.analyses.base.command import Command
from millstone.analyses.collocates.settings import CollocatesSettings
from millstone.outputs.charts.settings import ChartSettings

COMMAND = Command(
    "collocates",
    "which words occur near an expression more often than by chance?",
    CollocatesSettings,
    ChartSettings,
    "together counts the collocate within the span of any place; expected is what chance would give. log_dice is\n"
    "14 where two words never stand without each other and does not depend on the size of the corpus; mi prefers\n"
    "rare words, t_score and ll common ones.",
    (
        "collocates guestbook.csv --text entry --group hut --find stove --stop en",
        "collocates journals --find 'path*' --stop en --span 3 --by-side --top 8",
        "collocates guestbook.csv --text entry --find hut --against 'warden, wardens' --stop en",
    ),
    heading="relate",
)
