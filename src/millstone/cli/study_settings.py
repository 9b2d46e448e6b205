"""The settings that a command takes from a study file (``--study``)."""

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from millstone.cli.terminal.console import say
from millstone.core.settings.declare import build
from millstone.core.settings.inputs import FrequencyListOptions, InputOptions, Inputs
from millstone.core.settings.preparation import Preparation
from millstone.study.study_file import read_study
from millstone.study.trust import check_trust, outside


def shared_settings(path: Path, typed: Mapping[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """The shared settings of a study, and the same as its file has them; what it notes is printed.

    Raises
    ------
    DataError
        For what comes from the file, not from what is typed, and leads out of its folder.
    """
    study = read_study(path)
    for note in study.notes:
        say(f"note: {note}")
    own = {name: value for name, value in study.shared.items() if name not in typed}
    named = outside([build(part, own) for part in (Inputs, InputOptions, FrequencyListOptions, Preparation)], path)
    check_trust(path, named, typed.get("trust", False))
    return dict(study.shared), dict(study.shown)
