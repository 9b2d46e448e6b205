"""Dispersion: how evenly terms or expressions are spread."""

from millstone.analyses.base.command import Command
from millstone.analyses.dispersion.settings import DispersionSettings
from millstone.outputs.charts.settings import DispersionChartSettings

COMMAND = Command(
    "dispersion",
    "how evenly is a word spread over the texts?",
    DispersionSettings,
    DispersionChartSettings,
    "dp is near 0 for a term spread evenly over the documents of a group, near 1 for one that few of them hold\n"
    "(Gries 2008); dp_norm takes the sizes of the documents into account; juilland_d runs the other way, 1 for\n"
    "even. With --unit parts:20 the parts are equal stretches of each text.",
    (
        "dispersion guestbook.csv --text entry --group hut --find 'ahoy, kilometres' --find stove",
        "dispersion journals --stop en --min-freq 10 --sort dp:asc --top 10",
        "dispersion journals --unit parts:20 --find 'wind, storm*'",
    ),
    heading="count",
)
