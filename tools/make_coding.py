"""Make the filled-in coding sheet that ships in src/millstone/data/demo: drawn by millstone, coded by a rule.

    python tools/make_coding.py [FOLDER]

No one read these sentences. The codes follow the rule below, on which two invented coders slip now and then and which
they read differently on the border; a third settles where the two differ. So one knows what precision and recall of
the whole guest books are, and can see whether the sheet tells it.
"""

import contextlib
import csv
import random
import re
import shutil
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from millstone.cli.main import main
from millstone.outputs.files.companion import companion_path

TARGET = Path(__file__).parent.parent / "src" / "millstone" / "data" / "demo"
WORDS = Path(__file__).parent / "sample" / "words.txt"
SHEET = "coding.csv"
SLIPS = 0.03
_FEAR = re.compile(
    r"\b(afraid|scared|frightened|terrified|trembling|dizzy|anxious|nervous|petrified)\b|no shame in that|"
    r"We were too .* (near|down|round) |at the plank by|hair standing up",
    re.IGNORECASE,
)
_NO_FEAR, _BORDER_OF_FEAR = re.compile("Nobody was|Less "), re.compile("Was I |The word ")
_KINDS = ("@bird", "@beast", "@insect")
_ALSO = ("dog", "sheep", "mules?", "midges", "wasps", "marmot", "owls?", "snail")
_NO_ANIMAL = re.compile(r"like a |\bdog violet", re.IGNORECASE)
_BORDER_OF_ANIMALS = re.compile("drawing|I talk to|like a |without ")


def _animals() -> re.Pattern[str]:
    """The animals of the sentence frames, and those that the frames name themselves."""
    lines = WORDS.read_text("utf-8").splitlines()
    named = [name.strip() for kind in _KINDS for name in lines[lines.index(kind) + 1].split(";")]
    bare = [re.escape(re.sub("^(an? |two |three |somebody's )", "", name)) for name in named]
    return re.compile(rf"\b({'|'.join([*bare, *_ALSO])})\b", re.IGNORECASE)


_ANIMALS = _animals()


def fear(text: str) -> bool:
    """Whether someone is afraid, which jokes about nobody and comparisons with earlier years do not say."""
    return bool(_FEAR.search(text)) and not _NO_FEAR.search(text)


def animals(text: str) -> bool:
    """Whether an animal is there, which a comparison with one does not say."""
    return bool(_ANIMALS.search(text)) and not _NO_ANIMAL.search(text)


RULES: dict[str, Callable[[str], bool]] = {"animals": animals, "fear": fear}
_BORDERS = {"fear": _BORDER_OF_FEAR, "animals": _BORDER_OF_ANIMALS}


def code_of(category: str, text: str, coder: str, chance: random.Random) -> str:
    """The code that a coder fills in: for B the border is outside, both slip, and A is unsure at times."""
    truth = RULES[category](text)
    if _BORDERS[category].search(text):
        truth = truth and coder != "B"
        if coder == "A" and chance.random() < 0.1:
            return ""
    return str(int(truth != (chance.random() < SLIPS)))


def drawn_in(folder: Path) -> Path:
    """The sheet as millstone draws it of copies of the guest books and the dictionary in a folder."""
    for name in ("guestbook.csv", "dictionary.toml"):
        shutil.copy(TARGET / name, folder)
    typed = f"--text entry --id entry_id --group hut --dictionary dictionary.toml --select {','.join(RULES)}"
    drawn = "--unit sentence --sample 240 --context 12 --coders 2 --overlap 1 --seed 7 --quiet"
    with contextlib.chdir(folder):
        if main(["code", "guestbook.csv", *typed.split(), *drawn.split(), "-o", SHEET]):
            raise SystemExit(1)
    return folder / SHEET


def coded(rows: list[dict[str, str]]) -> list[dict[str, str]]:
    """The rows of a sheet filled in, with those of the third coder."""
    chance = random.Random(1865)
    of_unit: dict[str, list[dict[str, str]]] = {}
    for row in rows:
        codes = {category: code_of(category, row["text"], row["coder"], chance) for category in RULES}
        of_unit.setdefault(row["unit_id"], []).append({**row, **codes})
    found = [row for several in of_unit.values() for row in several]
    for several in of_unit.values():
        differing = [name for name in RULES if len({row[name] for row in several} - {""}) > 1]
        if differing:
            text = several[0]["text"]
            settled = {name: str(int(RULES[name](text))) if name in differing else "" for name in RULES}
            found.append({**several[0], "coder": "C", **settled})
    return sorted(found, key=lambda row: row["coder"])


def make(folder: Path) -> None:
    """Write the sheet and its companion to a folder."""
    with tempfile.TemporaryDirectory() as scratch:
        sheet = drawn_in(Path(scratch))
        with sheet.open(encoding="utf-8", newline="") as file:
            rows = coded(list(csv.DictReader(file)))
        shutil.copy(companion_path(sheet), companion_path(folder / SHEET))
    with (folder / SHEET).open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, list(rows[0]), lineterminator="\n")
        writer.writeheader()
        writer.writerows(rows)


if __name__ == "__main__":
    make(Path(sys.argv[1]) if len(sys.argv) > 1 else TARGET)
