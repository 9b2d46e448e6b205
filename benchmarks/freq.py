"""Time of ``millstone freq`` on one large file, as ratios to general tools, all in one run.

    python benchmarks/freq.py [TOKENS] [RUNS]

The text is made anew from a Zipf-Mandelbrot vocabulary with a fixed seed: accents, apostrophes, hyphens,
capitals and punctuation; its vocabulary grows with its length.
"""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

SYLLABLES = tuple("ba co de fi gu ha jo ke lu mé ni or pa qué ri sö ta und ve wi xa ye zo n'a el-o".split())  # noqa: SIM905
MILLSTONE = str(Path(sys.executable).with_name("millstone"))
COUNTER = (
    "import re, sys, collections; text = open(sys.argv[1], encoding='utf-8').read().lower()\n"
    r"""print(len(collections.Counter(re.findall(r"[^\W_]+(?:['-][^\W_]+)*", text))))"""
)
COMMANDS = {
    "millstone freq": [MILLSTONE, "freq", "{text}", "--quiet"],
    "millstone keyness, two halves": [MILLSTONE, "keyness", "a={text}", "b={half}", "--quiet"],
    "plain regular-expression counter": [sys.executable, "-c", COUNTER, "{text}"],
    "tr | tr | sort | uniq -c | sort -rn": [
        *("sh", "-c", "tr -cs \"[:alnum:]\\200-\\377'-\" '\\n' < {text} | tr A-Z a-z | sort | uniq -c | sort -rn"),
    ],
    "wc -w": ["wc", "-w", "{text}"],
    "import pandas": [sys.executable, "-c", "import pandas"],
}


def word(number: int) -> str:
    parts = []
    while True:
        number, rest = divmod(number, len(SYLLABLES))
        parts.append(SYLLABLES[rest])
        if not number:
            return "".join(parts)


def write_text(path: Path, tokens: int) -> None:
    import numpy as np

    chance = np.random.default_rng(20)
    size = max(1000, int(40 * tokens**0.55))
    weights = 1 / (np.arange(size) + 2.7) ** 1.05
    drawn = chance.choice(size, tokens, p=weights / weights.sum())
    words = np.array([word(number) for number in range(size)], dtype=object)[drawn]
    ends = chance.choice(np.array([" ", " ", " ", " ", " ", ", ", ". ", ".\n", "! "], dtype=object), tokens)
    capital = chance.random(tokens) < 0.1
    words[capital] = [one.capitalize() for one in words[capital]]
    path.write_text("".join((words + ends).tolist()), "utf-8")


def measured(command: list[str]) -> tuple[float, float]:
    """Wall seconds, and the peak memory in MB of the command and what it started."""
    environment = {**os.environ, "LC_ALL": "C"}
    with subprocess.Popen(command, stdout=subprocess.DEVNULL, env=environment) as process:
        start = time.perf_counter()
        _, status, usage = os.wait4(process.pid, 0)
        seconds = time.perf_counter() - start
        process.returncode = os.waitstatus_to_exitcode(status)
    if process.returncode:
        raise SystemExit(f"{command} ended with {process.returncode}")
    return seconds, usage.ru_maxrss / 1024


def main(tokens: int, runs: int) -> None:
    with tempfile.TemporaryDirectory() as folder:
        text, half = Path(folder, "text.txt"), Path(folder, "half.txt")
        # in a process of its own: the memory of a started program counts from that of the starter
        for path, size in ((text, tokens), (half, tokens // 2)):
            subprocess.run([sys.executable, __file__, "--write", str(path), str(size)], check=True)
        found: dict[str, list[tuple[float, float]]] = {name: [] for name in COMMANDS}
        for _ in range(runs):
            for name, command in COMMANDS.items():
                found[name].append(measured([part.format(text=text, half=half) for part in command]))
        print(f"{tokens:,} tokens, {text.stat().st_size / 1e6:.1f} MB, median of {runs} runs, {os.cpu_count()} cores")
    base = statistics.median(seconds for seconds, _ in found["millstone freq"])
    print(f"{'':38}{'seconds':>9}{'of freq':>9}{'MB':>7}")
    for name, figures in found.items():
        seconds = statistics.median(one for one, _ in figures)
        print(f"{name:38}{seconds:9.2f}{seconds / base:9.2f}{max(size for _, size in figures):7.0f}")


if __name__ == "__main__":
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    if sys.argv[1:2] == ["--write"]:
        write_text(Path(sys.argv[2]), int(sys.argv[3]))
        raise SystemExit
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 2_000_000, int(sys.argv[2]) if len(sys.argv) > 2 else 3)
