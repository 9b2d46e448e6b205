"""Frequency lists of one large text, beside general tools that count words.

    python benchmarks/lists.py [MEGABYTES] [RUNS]

Each line: seconds (median of the runs, start-up included), what it is a ratio of, the ratio, the limit wanted, and
the peak memory of the largest process. All programs run in turn, so that a slow machine is slow for all of them.
Scans that the program keeps lie in a temporary folder.
"""

import sys
import tempfile
from pathlib import Path

from measure import MILLSTONE, make, measured, median

COUNTER = (
    "import re, sys, collections; text = open(sys.argv[1], encoding='utf-8').read().lower()\n"
    r"""print(len(collections.Counter(re.findall(r"[^\W_]+(?:['-][^\W_]+)*", text))))"""
)
PIPE = "tr -cs \"[:alnum:]\\200-\\377'-\" '\\n' < {text} | tr A-Z a-z | sort | uniq -c | sort -rn"
FREQ = (MILLSTONE, "freq", "{text}", "--quiet")
PROGRAMS = {
    "wc -w": ("wc", "-w", "{text}"),
    "regular-expression counter": (sys.executable, "-c", COUNTER, "{text}"),
    "tr | tr | sort | uniq -c | sort": ("sh", "-c", PIPE),
    "import pandas": (sys.executable, "-c", "import pandas"),
    "import argparse": (sys.executable, "-c", "import argparse"),
    "freq, nothing kept": (*FREQ, "--no-cache"),
    "freq, one process": (*FREQ, "--no-cache", "--jobs", "1"),
    "freq, kept scan, first": FREQ,
    "freq, kept scan, other words": (*FREQ, "--stop", "en", "--length", "4..", "--min-freq", "5"),
    "freq, kept scan, lemmas, first": (*FREQ, "--lemmas", "en"),
    "freq, kept scan, lemmas, again": (*FREQ, "--lemmas", "en", "--stop", "en"),
    "freq, bigrams": (*FREQ, "--no-cache", "--ngram", "2", "--min-freq", "5"),
    "freq, twice the text": (MILLSTONE, "freq", "{twice}", "--quiet", "--no-cache"),
    "freq, as 20,000 files": (MILLSTONE, "freq", "{files}", "--quiet", "--no-cache"),
    "freq, as 500,000 rows": (MILLSTONE, "freq", "{rows}", "--text", "text", "--quiet", "--no-cache"),
    "freq, as short rows": (
        MILLSTONE,
        "freq",
        "{short}",
        "--text",
        "text",
        "--group",
        "group",
        "--quiet",
        "--no-cache",
    ),
    "profile without mtld": (MILLSTONE, "profile", "{text}", "--quiet", "--no-cache", "--no-mtld"),
    "profile": (MILLSTONE, "profile", "{text}", "--quiet", "--no-cache"),
    "--help": (MILLSTONE, "freq", "--help"),
    "--version": (MILLSTONE, "--version"),
}
COLD = "freq, nothing kept"
# program, what it is held against, the limit wanted for the ratio
LIMITS = (
    ("regular-expression counter", COLD, "6 or more"),
    ("tr | tr | sort | uniq -c | sort", COLD, "5 or more"),
    (COLD, "wc -w", "2.5 at most"),
    ("freq, one process", COLD, ""),
    ("freq, kept scan, other words", "import pandas", "2 at most"),
    ("freq, kept scan, lemmas, first", "import pandas", "12 at most"),
    ("freq, kept scan, lemmas, again", "import pandas", "3 at most"),
    ("freq, bigrams", COLD, "3 at most"),
    ("freq, twice the text", COLD, "2.1 at most"),
    ("freq, as 20,000 files", COLD, "1.7 at most"),
    ("freq, as 500,000 rows", COLD, "1.7 at most"),
    ("freq, as short rows", COLD, "1,200 MB at most"),
    ("profile without mtld", COLD, "3 at most"),
    ("profile", COLD, "8 at most"),
    ("--help", "import argparse", "3 at most"),
    ("--version", "import argparse", "3 at most"),
)


SHORT = 135
"""So many bytes a short row has, and the rest of a word: a million of them are 150 MB."""


def write_parts(text: Path, files: Path, rows: Path, short: Path) -> None:
    """The same text as 20,000 files and as a table of 500,000 rows; and its beginning as a million short ones."""
    words = text.read_text("utf-8").split()
    size = len(words) // 20_000 + 1
    for number, at in enumerate(range(0, len(words), size)):
        folder = files / f"g{number % 3}"
        folder.mkdir(parents=True, exist_ok=True)
        (folder / f"{number}.txt").write_text(" ".join(words[at : at + size]), "utf-8")
    size = len(words) // 500_000 + 1
    with rows.open("w", encoding="utf-8") as file:
        file.write("text\n")
        for at in range(0, len(words), size):
            file.write('"' + " ".join(words[at : at + size]).replace('"', '""') + '"\n')

    data, at = text.read_bytes().replace(b'"', b"'"), 0
    with short.open("wb") as out:
        out.write(b"id,group,text\n")
        for number in range(1_000_000):
            end = data.find(b" ", at + SHORT)
            if end < 0:
                break
            out.write(b'd%d,g%d,"%s"\n' % (number, number % 4, data[at:end]))
            at = end + 1


def main(megabytes: float, runs: int) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        places = {
            "text": "text.txt",
            "twice": "twice.txt",
            "files": "files",
            "rows": "rows.csv",
            "short": "short.csv",
        }
        paths = {key: str(folder / value) for key, value in places.items()}
        make("corpus.py", str(megabytes), paths["text"])
        make("corpus.py", str(2 * megabytes), paths["twice"])
        make("lists.py", "--parts", paths["text"], *(paths[one] for one in ("files", "rows", "short")))
        found: dict[str, list[tuple[float, float]]] = {program: [] for program in PROGRAMS}
        for run in range(runs):
            for program, command in PROGRAMS.items():
                filled = [part.format(**paths) if part != COUNTER else part for part in command]
                found[program].append(measured(filled, XDG_CACHE_HOME=str(folder / f"cache{run}")))
    times = {program: median(values) for program, values in found.items()}
    print(f"{megabytes:g} MB, {runs} runs")
    for program, (seconds, size) in times.items():
        print(f"{program:34}{seconds:9.2f} s{size:8.0f} MB")
    print()
    for program, against, limit in LIMITS:
        print(f"{program:34} / {against:22}{times[program][0] / times[against][0]:8.2f}   {limit}")


if __name__ == "__main__":
    if sys.argv[1:2] == ["--parts"]:
        write_parts(*map(Path, sys.argv[2:6]))
        raise SystemExit
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 200, int(sys.argv[2]) if len(sys.argv) > 2 else 3)
