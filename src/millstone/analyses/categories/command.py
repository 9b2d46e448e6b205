"""Categories of a dictionary, counted in each document."""

from millstone.analyses.base.command import Command
from millstone.analyses.categories.settings import CategorySettings
from millstone.outputs.charts.settings import ChartSettings

COMMAND = Command(
    "categories",
    "dictionary categories, per document",
    CategorySettings,
    ChartSettings,
    "A place is a match of an entry; the longest match counts, and a place counts once in a category.\n"
    "matched_percent is the share of tokens that any category covers. Stop lists and the other word rules\n"
    "never apply to a dictionary.",
    (
        "categories guestbook.csv --text entry --id entry_id --group hut --dictionary dictionary.toml",
        "categories journals --dictionary dictionary.toml --scale per_thousand -o journals.csv",
        "categories guestbook.csv --text entry --group hut --dictionary dictionary.toml --chart huts.png",
        "categories journals --dictionary dictionary.toml --select weather --marked weather.html",
    ),
    heading="count",
    tables=("by_group", "words", "in_order"),
    files={"marked": (".html",)},
)
