"""Word tree: how the contexts of an expression branch."""

from millstone.analyses.base.command import Command
from millstone.analyses.wordtree.settings import WordTreeSettings
from millstone.outputs.charts.settings import ChartSettings

COMMAND = Command(
    "wordtree",
    "how do the contexts of an expression branch?",
    WordTreeSettings,
    ChartSettings,
    "From the node outwards, word by word within the sentence. Words that all places of a branch share are one\n"
    "branch, so that each level is a fork. What is not shown is added up as (N more), and sentences that end\n"
    "there as (end): the branches of a fork add up to it.",
    (
        "wordtree guestbook.csv --text entry --find stove",
        "wordtree guestbook.csv --text entry --group hut --find 'the stove' --side both --depth 2",
        "wordtree journals --find 'path' --side left --min-places 3",
    ),
    heading="read",
    chooses_rows=False,
)
