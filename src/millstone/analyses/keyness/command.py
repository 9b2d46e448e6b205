"""Keyness: the terms that set groups apart."""

from millstone.analyses.base.command import Command
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.outputs.charts.settings import KeynessChartSettings

COMMAND = Command(
    "keyness",
    "which terms set groups apart",
    KeynessSettings,
    KeynessChartSettings,
    "log_ratio is the size of a difference: 1 means twice as frequent in the target, -1 half as frequent.\n"
    "p_adjusted says how surely groups differ, design_effect how unevenly a term is spread.",
    (
        "keyness guestbook.csv --text entry --group hut --min-freq 5",
        "keyness journals --against pairs --stop en --chart keyness.svg",
        "keyness early=journals/Ostrel/2016.txt late=journals/Ostrel/2019.txt --top 10",
    ),
    heading="compare",
    tables=("overlap",),
    files={"keys_to": (".toml",)},
    accepts_frequency_lists=True,
)
