"""The documents x terms table."""

from millstone.analyses.base.command import Command
from millstone.analyses.matrix.settings import MatrixSettings

COMMAND = Command(
    "matrix",
    "the documents x terms table, for other programs",
    MatrixSettings,
    None,
    "One row per document, its group and metadata first, then one column per term. As .mtx only what is not 0 is\n"
    "written, with the names of rows and columns in two files beside it; .csv, .tsv, .xlsx and .parquet\n"
    "have every cell. relative is of all word tokens of the row, left-out ones too.",
    (
        "matrix journals --stop en --min-docs 3 -o journals.csv",
        "matrix guestbook.csv --text entry --group hut -o guestbook.mtx",
        "matrix guestbook.csv --text entry --group hut --by group --transpose --min-freq 50",
    ),
    heading="count",
    chooses_rows=False,
)
