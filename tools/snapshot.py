"""Keeps all that the program prints and writes for many commands, and says what a change of the code altered.

    python tools/snapshot.py take FOLDER     before the change
    python tools/snapshot.py compare FOLDER  after it; ends with 1 where something differs

The commands are the examples of all helps, those of README and guides, every help, and `tools/snapshot.txt`. They
run in the folder of the demo, each set in a copy of its own; those of analyses run a second time on a terminal of
80 columns. What is written to files is kept as its SHA-256, what is printed as it is.
"""

import argparse
import difflib
import hashlib
import json
import os
import pty
import re
import shlex
import shutil
import subprocess
import sys
import tempfile
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).parent.parent
PROGRAM = Path(sys.executable).with_name("millstone")
_SECONDS = re.compile(r"\b\d+(\.\d+)? s\b")
# these hold times of day, or sums of other files
_NOT_KEPT = {"millstone-manifest.json", ".millstone-ledger.json"}
_NO_COMMANDS = {"index", "tables"}


def examples_of_guides() -> dict[str, list[str]]:
    """Page -> the commands in its blocks that run in the folder of the demo."""
    found = {}
    for path in (ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))):
        blocks = path.read_text("utf-8").split("```console demo\n")[1:]
        lines = [line for block in blocks for line in block.split("```")[0].splitlines()]
        found[path.name] = [line.removeprefix("$ millstone ") for line in lines if line.startswith("$ millstone ")]
    return found


def all_commands() -> dict[str, list[str]]:
    """Name of a set -> its commands, which run one after the other in one folder."""
    names = (ROOT / "docs" / "reference").glob("*.md")
    known = sorted(path.stem for path in names if path.stem not in _NO_COMMANDS)
    helps = [line for name in known for line in (f"{name} --help", f"{name} --help-all")]
    examples = {name: _examples_of(name) for name in known}
    further = (ROOT / "tools" / "snapshot.txt").read_text("utf-8").splitlines()
    further = [line for line in further if line and not line.startswith("#")]
    fifths = {f"further {at}": further[at * 25 : at * 25 + 25] for at in range(-(-len(further) // 25))}
    return {"helps": ["--help", "--version", *helps], **examples, **examples_of_guides(), **fifths}


def _examples_of(name: str) -> list[str]:
    shown = subprocess.run([PROGRAM, name, "--help"], capture_output=True, text=True, check=True).stdout
    lines = shown.partition("examples")[2].splitlines()[1:]
    return [line.strip().removeprefix("millstone ") for line in lines if line.strip()]


def run_set(commands: list[str], demo: Path) -> dict[str, dict[str, object]]:
    """Command -> its status, what it printed, and the files that it made or changed."""
    found: dict[str, dict[str, object]] = {}
    with tempfile.TemporaryDirectory() as folder:
        settings = {**os.environ, "XDG_CACHE_HOME": f"{folder}/cache", "LC_ALL": "C.UTF-8"}
        huts = Path(folder, "huts")
        shutil.copytree(demo, huts)
        before = _sums(huts)
        for line in dict.fromkeys(commands):
            typed = shlex.split(line)
            done = subprocess.run(
                [PROGRAM, *typed], cwd=huts, env={**settings, "COLUMNS": "100"}, capture_output=True, check=False
            )
            after = _sums(huts)
            found[line] = {
                "status": done.returncode,
                "out": _plain(done.stdout, folder),
                "err": _plain(done.stderr, folder),
                "files": {name: one for name, one in after.items() if before.get(name) != one},
            }
            before = after
            if "-o" not in typed and typed[0] not in ("run", "init") and "--help" not in line:
                found[line]["terminal"] = _plain(_on_terminal(typed, huts, settings), folder)
                before = _sums(huts)
    return found


def _on_terminal(typed: list[str], folder: Path, settings: dict[str, str]) -> bytes:
    """All that a command shows on a terminal of 80 columns."""
    main, other = pty.openpty()
    shown = bytearray()

    def read() -> None:
        try:
            while part := os.read(main, 65536):
                shown.extend(part)
        except OSError:
            # the other end was closed
            return

    reader = threading.Thread(target=read)
    reader.start()
    around = {**settings, "COLUMNS": "80", "TERM": "xterm"}
    subprocess.run([PROGRAM, *typed], cwd=folder, env=around, stdout=other, stderr=subprocess.DEVNULL, check=False)
    os.close(other)
    reader.join()
    os.close(main)
    return bytes(shown)


def _plain(printed: bytes, folder: str) -> str:
    return _SECONDS.sub("SECONDS", printed.decode("utf-8", "replace").replace(folder, "FOLDER"))


def _sums(folder: Path) -> dict[str, str]:
    files = (path for path in folder.rglob("*") if path.is_file() and path.name not in _NOT_KEPT)
    return {str(path.relative_to(folder)): hashlib.sha256(path.read_bytes()).hexdigest() for path in files}


def take(jobs: int) -> dict[str, dict[str, dict[str, object]]]:
    """Run all sets, some at a time."""
    sets = all_commands()
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(jobs) as pool:
        demo = Path(folder, "huts")
        subprocess.run([PROGRAM, "demo", str(demo), "--quiet"], check=True)
        found = pool.map(lambda commands: run_set(commands, demo), sets.values())
        return dict(zip(sets, found, strict=True))


def differences(old: dict, new: dict) -> list[str]:
    """Lines that say where two snapshots differ."""
    found = []
    for name, commands in old.items():
        for line, was in commands.items():
            now = new.get(name, {}).get(line)
            if now is None:
                found.append(f"[{name}] {line}\n  is gone")
                continue
            for part in was:
                if was[part] != now.get(part):
                    found.append(f"[{name}] {line}\n  {part}:\n{_difference(was[part], now.get(part))}")
    return found


def _difference(was: object, now: object) -> str:
    if isinstance(was, str) and isinstance(now, str):
        lines = difflib.unified_diff(was.splitlines(), now.splitlines(), lineterm="", n=0)
        return "\n".join(f"    {line}" for line in [*lines][2:])
    if isinstance(was, dict) and isinstance(now, dict):
        changed = [one for one in {**was, **now} if was.get(one) != now.get(one)]
        return f"    {', '.join(changed)}"
    return f"    {was!r} -> {now!r}"


def main() -> int:
    """Take a snapshot, or compare with one."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("what", choices=("take", "compare"))
    parser.add_argument("folder", type=Path)
    parser.add_argument("--jobs", type=int, default=os.cpu_count() or 1)
    typed = parser.parse_args()
    file = typed.folder / "snapshot.json"
    found = take(typed.jobs)
    if typed.what == "take":
        typed.folder.mkdir(parents=True, exist_ok=True)
        file.write_text(json.dumps(found, indent=1, ensure_ascii=False), "utf-8")
        print(f"{sum(map(len, found.values()))} commands kept in {file}")
        return 0
    (typed.folder / "new.json").write_text(json.dumps(found, indent=1, ensure_ascii=False), "utf-8")
    lines = differences(json.loads(file.read_text("utf-8")), found)
    print("\n".join(lines) or "nothing differs")
    return 1 if lines else 0


if __name__ == "__main__":
    sys.exit(main())
