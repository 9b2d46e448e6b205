"""Going back to the text: lines, company and branches of words, from a cached scan of many files.

    python benchmarks/reading.py [SCALE]

SCALE 1 (default) is 200 MB in 20,000 files. Words of about 1,000, 20,000, 500,000 and a million places are taken
from a frequency list. Prints seconds, peak memory, and the ratio to ``grep -rowiE`` for the rarest, all on files that
were read before; ``dispersion`` of the node shows what the scan alone takes.
"""

import csv
import os
import sys
import tempfile
from collections import Counter
from pathlib import Path

from corpus import write_text
from measure import MILLSTONE, make, measured, median

FILES, MEGABYTES = 20_000, 200
RUNS = 3


def write_files(folder: Path, scale: float) -> None:
    """The text in files of about the same size, in three groups."""
    text = folder / "text.txt"
    write_text(text, MEGABYTES * scale)
    lines = text.read_text("utf-8").splitlines(keepends=True)
    number = int(FILES * scale)
    for place in range(number):
        group = folder / "files" / f"g{place % 3}"
        group.mkdir(parents=True, exist_ok=True)
        here = lines[place * len(lines) // number : (place + 1) * len(lines) // number]
        (group / f"{place}.txt").write_text("".join(here), "utf-8")
    text.unlink()


def word_of(freqs: Counter[str], wanted: float) -> str:
    """The word of plain letters whose frequency comes nearest."""
    plain = {word: freq for word, freq in freqs.items() if word.isascii() and word.isalpha()}
    return min(plain, key=lambda word: (abs(plain[word] - wanted), word))


def main(scale: float) -> None:
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made)
        make("reading.py", "--make", made, str(scale))
        own = {"XDG_CACHE_HOME": str(folder / "cache")}
        files, table = str(folder / "files"), str(folder / "freq.csv")
        measured([MILLSTONE, "freq", files, "-o", table, "--quiet"], **own)
        freqs: Counter[str] = Counter()
        with Path(table).open(encoding="utf-8", newline="") as opened:
            for row in csv.DictReader(opened):
                freqs[row["term"]] += int(row["freq"])
        few, some, many, most = (word_of(freqs, scale * freq) for freq in (1_000, 20_000, 500_000, 1_000_000))
        measured([MILLSTONE, "dispersion", files, "--find", few, "--quiet"], **own)
        searched, _ = median([measured(["grep", "-rowiE", few, files]) for _ in range(RUNS)])
        print(f"{'':44}{'places':>9}{'seconds':>9}{'peak MB':>9}{'of grep':>9}")
        print(f"{'grep -rowiE':44}{freqs[few]:9,}{searched:9.2f}")
        for name, word, options in (
            ("concordance", few, ()),
            ("concordance --sort right", few, ("--sort", "right")),
            ("concordance -o lines.tsv", most, ("-o", str(folder / "lines.tsv"), "--force")),
            ("dispersion, the scan alone", many, ()),
            ("collocates", many, ()),
            ("wordtree", some, ()),
        ):
            command = name.partition(" ")[0].rstrip(",")
            run = [MILLSTONE, command, files, "--find", word, *options, "--quiet"]
            seconds, peak = median([measured(run, **own) for _ in range(RUNS)])
            print(f"{name:44}{freqs[word]:9,}{seconds:9.2f}{peak:9.0f}{seconds / searched:9.1f}", flush=True)


if __name__ == "__main__":
    if sys.argv[1:2] == ["--make"]:
        write_files(Path(sys.argv[2]), float(sys.argv[3]))
        raise SystemExit
    os.environ.setdefault("LC_ALL", "C")
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 1.0)
