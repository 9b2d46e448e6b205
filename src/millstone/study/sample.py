"""The sample corpus that ships with millstone."""

from importlib import resources
from importlib.resources.abc import Traversable
from pathlib import Path

from millstone.core.errors import DataError
from millstone.results.writing import Outputs

_PARTS = ("guestbook.csv", "journals", "dictionary.toml", "study.toml", "truth.toml")


def write_sample(folder: Path, force: bool = False) -> int:
    """Write the sample corpus into a folder and return the number of its files.

    Raises
    ------
    DataError
        When a file there is not millstone's own or was edited since; then nothing is written.
    """
    source = resources.files("millstone.data").joinpath("demo")
    files = [found for part in _PARTS for found in _files(source.joinpath(part), Path(part))]
    outputs = Outputs(force)
    for _, inside in files:
        _make_folder((folder / inside).parent)
        outputs.claim(folder / inside)
    for file, inside in files:
        outputs.add(folder / inside, file.read_bytes())
    _make_folder(folder / "results")
    return len(outputs.commit())


def _files(place: Traversable, inside: Path) -> list[tuple[Traversable, Path]]:
    if place.is_file():
        return [(place, inside)]
    below = sorted(place.iterdir(), key=lambda one: one.name)
    return [found for one in below for found in _files(one, inside / one.name)]


def _make_folder(folder: Path) -> None:
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise DataError(
            f"the folder {folder} cannot be made: {(error.strerror or str(error)).lower()}",
            "name a folder in a place you may write to",
        ) from error
