"""A look at texts before anything is analysed."""

from millstone.analyses.base.command import Command
from millstone.analyses.check.settings import CheckSettings

COMMAND = Command(
    "check",
    "what is in these texts, and what looks wrong with them?",
    CheckSettings,
    None,
    "Nothing is analysed. The documents and tokens of each group are counted and common problems looked for;\n"
    "each finding names the option that would fix it. Try the options of an analysis here first.",
    (
        "check guestbook.csv --text entry --group hut",
        "check guestbook.csv --text entry --where 'hut = Ostrel' --show 2",
        "check guestbook.csv --text entry --lemmas en --stop en --explain her",
        "check guestbook.csv --text entry --group hut --duplicates",
        "check journals --unit sentence --show-units sentences.csv",
    ),
    heading="begin",
    tables=("duplicates", "show_units"),
    chooses_rows=False,
    looks_only=True,
)
