"""Vary: would it hold under other settings?"""

from dataclasses import field, replace

from millstone.analyses.base.command import Command
from millstone.analyses.vary.settings import VARIED, VarySettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import declared
from millstone.outputs.charts.settings import CurveChartSettings

COMMAND = Command(
    "vary",
    "would a result hold with other settings?",
    VarySettings,
    CurveChartSettings,
    "Carries out freq, keyness, logodds, contrast or collocates under every combination of the values of\n"
    "--over. Two combinations: which rows moved, and why. More: in how many of them a row passes, how far its\n"
    "effect goes, and on which option that depends. The options of the command itself go on as they are.",
    (
        "vary keyness guestbook.csv --text entry --group hut --over 'stop: none | en' "
        "--over 'lemmas: none | en' --over 'min-freq: 2 | 5 | 10'",
        "vary freq journals --over 'lemmas: none | en'",
        "vary contrast guestbook.csv --text entry --group hut --dictionary dictionary.toml "
        "--over 'where: season = summer | season = winter' --over 'unit: whole | sentence'",
    ),
    heading="compare",
    tables=("each",),
    varies=VARIED,
)

_LEFT_OUT = (
    *("wide", "alpha", "direction", "min_log_ratio", "shared", "margin", "background", "below", "resample"),
    *("overlap_terms", "by_side", "repelled", "table"),
)
"""Options that only change which rows of one table are seen, or make another one."""


def command_of(command: Command) -> Command:
    """The command that varies another one: its settings are its own and those of that one.

    Parameters
    ----------
    command : Command
        One of those that can be varied.

    Returns
    -------
    Command
    """
    own = declared(VarySettings)
    taken = {
        name: one
        for name, one in declared(command.settings).items()
        if name not in own and name not in _LEFT_OUT and not one.metadata["kind"].is_output
    }
    fields = {one.name: one for one in taken.values()}
    body = {name: field(default=one.default, metadata=one.metadata) for name, one in fields.items()}
    made = type(
        f"Vary{command.settings.__name__}",
        (VarySettings,),
        {
            "__annotations__": {name: one.type for name, one in fields.items()},
            **body,
            "__doc__": VarySettings.__doc__,
        },
    )
    return replace(
        COMMAND,
        settings=frozen(made),
        of=command,
        accepts_frequency_lists=command.accepts_frequency_lists,
        counts_fields=command.counts_fields,
    )
