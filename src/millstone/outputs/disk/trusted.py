"""Trusted studies: for a study file, the places outside its folder that it may read and write."""

import json
import os
import tempfile
from collections.abc import Collection
from contextlib import suppress
from pathlib import Path

from millstone.outputs.disk.private import make_private

_FILE = "trusted.json"
_MOST = 1000


def is_trusted(study: Path, named: Collection[str]) -> bool:
    """Whether all that a study file names outside its folder was trusted before, or is nothing.

    Parameters
    ----------
    study : Path
    named : collection of str
        As `remember` was given it: ``reads /data/texts``.
    """
    return set(named) <= set(_known().get(str(study.resolve()), ()))


def remember(study: Path, named: Collection[str]) -> bool:
    """Remember that the user trusts a study file with what it names, in place of what was trusted before.

    Returns
    -------
    bool
        False where nothing can be remembered: there is no home, or no room in it.
    """
    folder = _folder()
    if folder is None:
        return False
    place = str(study.resolve())
    known = {name: several for name, several in _known().items() if name != place}
    known[place] = sorted(named)
    # the ones that were trusted longest ago go first
    kept = dict(list(known.items())[-_MOST:])
    try:
        make_private(folder)
        descriptor, name = tempfile.mkstemp(prefix=_FILE, dir=folder)
        try:
            with os.fdopen(descriptor, "wb") as file:
                file.write(json.dumps(kept, indent=1).encode("utf-8"))
            Path(name).replace(folder / _FILE)
        except BaseException:
            with suppress(OSError):
                Path(name).unlink()
            raise
    except OSError:
        return False
    return True


def _known() -> dict[str, list[str]]:
    """Study file -> what it was trusted with; a file that is missing or damaged trusts nothing."""
    folder = _folder()
    try:
        found = json.loads((folder / _FILE).read_bytes()) if folder else {}
    except (OSError, ValueError, RecursionError):
        return {}
    if not isinstance(found, dict):
        return {}
    return {name: [str(one) for one in several] for name, several in found.items() if isinstance(several, list)}


def _folder() -> Path | None:
    """The folder for what is remembered from run to run; None for a user without a home."""
    try:
        from platformdirs import user_state_path

        folder = user_state_path("millstone", appauthor=False)
    except RuntimeError:
        return None
    return folder if folder.is_absolute() else None
