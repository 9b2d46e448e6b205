"""The sample corpus that ships with millstone."""

from importlib import resources
from importlib.resources.abc import Traversable
from pathlib import Path

from millstone.outputs.disk.ledger import SAMPLES
from millstone.outputs.files.writing import Outputs

_PARTS = (
    *("guestbook.csv", "journals", "dictionary.toml", "study.toml", "parties.toml", "truth.toml"),
    *("coding.csv", "coding.csv-metadata.json"),
)


def write_sample(folder: Path, force: bool = False) -> int:
    """Write the sample corpus into a folder and return the number of its files.

    Raises
    ------
    DataError
        When a file there is not millstone's own or was edited since; then nothing is written.
    """
    source = resources.files("millstone.data").joinpath("demo")
    files = [found for part in _PARTS for found in _files(source.joinpath(part), Path(part))]
    outputs = Outputs(force, kind=SAMPLES)
    for _, inside in files:
        outputs.claim_folder((folder / inside).parent)
        outputs.claim(folder / inside)
    for file, inside in files:
        outputs.add(folder / inside, file.read_bytes())
    return len(outputs.commit())


def _files(place: Traversable, inside: Path) -> list[tuple[Traversable, Path]]:
    if place.is_file():
        return [(place, inside)]
    below = sorted(place.iterdir(), key=lambda one: one.name)
    return [found for one in below for found in _files(one, inside / one.name)]
