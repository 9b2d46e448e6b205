"""Places that a study names outside its own folder: none is read or written before the user trusts the study."""

import glob
import os
from collections.abc import Iterable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

from millstone.analyses.base.analysis import analysis_of
from millstone.analyses.base.step import Step
from millstone.core.base.addresses import address_in
from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed
from millstone.core.settings.declare import declared
from millstone.core.settings.kind import Kind
from millstone.outputs.disk.trusted import is_trusted, remember
from millstone.study.study import Study
from millstone.texts.inputs.files import STANDARD_INPUT, at_home
from millstone.texts.inputs.finding.remote import check_address

_READS, _WRITES = "reads", "writes"


def named_outside(study: Study, path: Path) -> list[str]:
    """List what the steps of a study read and write outside the folder of its file, after links are resolved.

    Parameters
    ----------
    study : Study
    path : Path
        The study file.

    Returns
    -------
    list of str
        ``reads /data/texts``, ``writes /data/results/a.csv``; addresses as they are typed.
    """
    parts = [
        part
        for step in study.steps
        for one in (step, *analysis_of(step).steps_within(step))
        for part in _parts_of(one)
    ]
    page = study.page.resolve()
    found = outside(parts, path)
    return found if page.is_relative_to(_folder_of(path)) else [*found, f"{_WRITES} {page}"]


def _parts_of(step: Step[Any]) -> tuple[Any, ...]:
    return (step.inputs, step.reading, step.counted, step.preparation, step.settings, step.chart, step.output)


def outside(parts: Iterable[Any], path: Path) -> list[str]:
    """List what some settings name outside the folder of the study file at `path`, each once."""
    folder = _folder_of(path)
    named = dict.fromkeys(place for part in parts for place in _named(part))
    found: dict[str, None] = {}
    for verb, typed, is_input in named:
        for place in _places(typed, folder) if is_input else [at_home(typed).resolve()]:
            if isinstance(place, str) or not place.is_relative_to(folder):
                found[f"{verb} {place}"] = None
    return list(found)


def check_trust(path: Path, named: list[str], trust: bool) -> None:
    """Let a study be carried out if the user trusts it with what it names outside its folder.

    Parameters
    ----------
    path : Path
        The study file.
    named : list of str
        As `named_outside` gives it.
    trust : bool
        The user said so now, which is remembered.

    Raises
    ------
    DataError
        Names what was not trusted before.
    """
    if trust and named:
        remember(path, named)
    elif not is_trusted(path, named):
        raise DataError(
            f"{path} names what lies outside its folder: it {listed(named, between='; ')}",
            "look at it (run --dry-run lists all of it): a study from somebody else could read or overwrite what is "
            "yours; if it may, type --trust once",
        )


def _folder_of(path: Path) -> Path:
    return path.resolve().parent


def _named(part: Any) -> Iterator[tuple[str, str, bool]]:
    """Paths that settings read and write: the verb, what is typed, and whether it is an input."""
    for name, one in declared(type(part)).items():
        kind: Kind = one.metadata["kind"]
        values = getattr(part, one.name)
        for value in values if kind.repeatable else (values,):
            # no file has a name with a zero in it, and who is to read it will say so
            is_name = isinstance(value, str) and value and "\0" not in value
            if is_name and (name == "input" or kind.is_path(value)):
                yield _WRITES if kind.is_output else _READS, value, name == "input"


def _places(typed: str, folder: Path) -> Iterator[Path | str]:
    """Where an input leads: addresses, paths, and what links below a folder lead to."""
    if address := address_in(typed):
        check_address(address)
        yield address
        return
    path = at_home(typed)
    if not path.exists() and "=" in typed:
        path = at_home(typed.partition("=")[2])
    if str(path) == STANDARD_INPUT:
        return
    paths = [path]
    at = next((number for number, part in enumerate(path.parts) if set("*?[") & set(part)), 0)
    if at and not path.exists():
        # whatever comes to fit a pattern later is meant as well
        above = Path(*path.parts[:at]).resolve()
        yield above.joinpath(*path.parts[at:])
        paths = list(map(Path, glob.glob(str(path), recursive=True))) if above.is_relative_to(folder) else []
    for one in paths:
        place = one.resolve()
        yield place
        if place.is_dir() and place.is_relative_to(folder):
            yield from _linked_from(place, folder)


def _linked_from(start: Path, folder: Path) -> Iterator[Path]:
    """Where the links below a folder lead; those that stay within the folder of the study are followed."""
    waiting, seen = [start], set[Path]()
    while waiting:
        here = waiting.pop()
        if here in seen:
            continue
        seen.add(here)
        with suppress(OSError), os.scandir(here) as entries:
            for one in entries:
                if one.is_dir(follow_symlinks=False):
                    waiting.append(Path(one.path))
                elif one.is_symlink():
                    place = Path(one.path).resolve()
                    yield place
                    if place.is_dir() and place.is_relative_to(folder):
                        waiting.append(place)
