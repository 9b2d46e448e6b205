"""Network: which terms occur together."""

from millstone.analyses.base.command import Command
from millstone.analyses.network.settings import GRAPHS, NetworkSettings
from millstone.outputs.charts.settings import NetworkChartSettings

COMMAND = Command(
    "network",
    "which terms occur together?",
    NetworkSettings,
    NetworkChartSettings,
    "Two terms are linked that occur in the same unit: a document, with --unit sentence a sentence, with --span N\n"
    "within N tokens of each other. dice is 1 where neither occurs without the other. Communities are groups of\n"
    "terms with more links among themselves than to others.",
    (
        "network guestbook.csv --text entry --group hut --stop en --terms 40 --chart map.png",
        "network journals --stop en --span 5 --association npmi --min-together 5 --nodes - --sort degree",
        "network guestbook.csv --text entry --stop en --unit sentence --sort together --communities -",
        "network guestbook.csv --text entry --dictionary dictionary.toml --unit sentence --graph themes.graphml",
    ),
    heading="relate",
    tables=("nodes", "communities"),
    files={"graph": GRAPHS},
)
