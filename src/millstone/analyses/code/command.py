"""Code: does a category measure what it says? A sheet for coders."""

from millstone.analyses.base.command import Command
from millstone.analyses.code.settings import CodeSettings

COMMAND = Command(
    "code",
    "a sheet on which coders say what a category ought to count",
    CodeSettings,
    None,
    "Draws documents, or what --unit makes of them, half of them with a hit, spread over categories and entries,\n"
    "in random order and without a sign of the hit. Fill in 1 where a unit is of the category, 0 where it\n"
    "is not, nothing where you are unsure. What the category means is to be written down before you code.",
    (
        "code guestbook.csv --text entry --dictionary dictionary.toml --select fear --unit sentence --sample 20",
        "code journals --dictionary dictionary.toml --select weather --unit sentence --sample 120 --coders 2 "
        "-o sheets.xlsx",
    ),
    heading="count",
    chooses_rows=False,
)
