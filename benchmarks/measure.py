"""Running programs for measuring: wall time and peak memory, one program after the other."""

import os
import statistics
import subprocess
import sys
import time
from collections.abc import Sequence
from pathlib import Path

MILLSTONE = str(Path(sys.executable).with_name("millstone"))


def measured(command: Sequence[str], folder: Path | None = None, /, **own: str) -> tuple[float, float]:
    """Wall seconds, and the peak memory in MB of the largest process of a command, started in a folder."""
    # modules are kept as they were compiled, as users have them
    inherited = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    environment = {**inherited, "LC_ALL": "C", **own}
    with subprocess.Popen(command, stdout=subprocess.DEVNULL, env=environment, cwd=folder) as process:
        start = time.perf_counter()
        _, status, usage = os.wait4(process.pid, 0)
        seconds = time.perf_counter() - start
        process.returncode = os.waitstatus_to_exitcode(status)
    if process.returncode:
        raise SystemExit(f"{' '.join(command)} ended with {process.returncode}")
    return seconds, usage.ru_maxrss / 1024


def median(values: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """The median time and the largest memory of several runs."""
    return statistics.median(seconds for seconds, _ in values), max(size for _, size in values)


def make(script: str, *arguments: str) -> None:
    """Run a script of this folder in its own process, whose memory then counts for nobody else."""
    subprocess.run([sys.executable, str(Path(__file__).with_name(script)), *arguments], check=True)
