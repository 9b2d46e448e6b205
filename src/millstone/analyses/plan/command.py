"""Plan: how large a difference would corpora of a given size show?"""

from millstone.analyses.base.command import Command
from millstone.analyses.plan.settings import PlanSettings

COMMAND = Command(
    "plan",
    "how large a difference could texts of this size show?",
    PlanSettings,
    None,
    "For words of each frequency: the smallest ratio of two rates that a comparison over documents would find, and\n"
    "how many documents a doubling needs. With texts, how unevenly words are spread over documents is measured in\n"
    "them; before there are any, --sizes says how many documents of how many tokens there will be.",
    (
        "plan guestbook.csv --text entry --group hut --where 'hut != Haskgate'",
        "plan --sizes old=20x5000,new=40x2000 --design-effect 2",
        "plan journals --power 0.9 --stop en",
    ),
    heading="compare",
)
