"""What belongs together: networks of many terms in many units, words used alike, tags of raw text.

    python benchmarks/relations.py [SCALE]

SCALE 1 (default) is 200 MB of text for networks, words used alike and compared contexts, their scans in the cache,
and 100,000 tokens to be tagged. Prints seconds, peak memory, and the ratio to a command that does no more than load
the same scan; of contexts to collocates of one node.
"""

import os
import sys
import tempfile
from pathlib import Path

from corpus import write_text
from measure import MILLSTONE, make, measured, median

RUNS = 3
TAGGED = 100_000
SENTENCE = (
    "The old warden of the hut lit the stove and wasn't surprised that three tired walkers came in from the rain . "
)


def write(folder: Path, scale: float) -> None:
    """A long text of lines, and a short English one."""
    write_text(folder / "text.txt", 200 * scale)
    words = SENTENCE.split()
    (folder / "english.txt").write_text(SENTENCE * int(TAGGED * scale / len(words)), "utf-8")


def main(scale: float) -> None:
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made)
        make("relations.py", "--make", made, str(scale))
        own = {"XDG_CACHE_HOME": str(folder / "cache")}
        text, english = str(folder / "text.txt"), str(folder / "english.txt")
        units = ["--unit", "line", "--quiet"]
        parts = ["--unit", "words:2000", "--quiet", "--top", "5"]
        network = ["network", text, *units, "--terms", "2000", "--most-links", "1000"]
        print(f"{'':52}{'seconds':>9}{'peak MB':>9}{'ratio':>7}")
        for name, load, command in (
            ("network: 2,000 terms, units are lines", ["dispersion", text, *units, "--find", "ba"], network),
            (
                "alike: one node",
                ["dispersion", text, "--find", "ba", "--quiet"],
                ["alike", text, "--find", "gu", "--quiet"],
            ),
            (
                "contexts: two nodes of 120,000 places",
                ["collocates", text, *parts, "--find", "fico"],
                ["collocates", text, *parts, "--find", "fico", "--against", "guco", "--independent-units"],
            ),
        ):
            measured([MILLSTONE, *load], **own)
            loading, _ = median([measured([MILLSTONE, *load], **own) for _ in range(RUNS)])
            seconds, peak = median([measured([MILLSTONE, *command], **own) for _ in range(RUNS)])
            print(f"{'the scan alone':52}{loading:9.2f}")
            print(f"{name:52}{seconds:9.2f}{peak:9.0f}{seconds / loading:7.1f}", flush=True)
        plain, _ = median(
            [measured([MILLSTONE, "freq", english, "--no-cache", "--quiet"], **own) for _ in range(RUNS)]
        )
        for jobs in (1, 2):
            command = ["freq", english, "--tag", "en", "--no-cache", "--jobs", str(jobs), "--quiet"]
            seconds, peak = median([measured([MILLSTONE, *command], **own) for _ in range(RUNS)])
            name = f"tagging {TAGGED * scale:,.0f} tokens, --jobs {jobs}"
            print(f"{name:52}{seconds:9.2f}{peak:9.0f}{seconds / plain:7.1f}", flush=True)


if __name__ == "__main__":
    if sys.argv[1:2] == ["--make"]:
        write(Path(sys.argv[2]), float(sys.argv[3]))
        raise SystemExit
    os.environ.setdefault("LC_ALL", "C")
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 1.0)
