"""Changes one expression of a module at a time and runs its tests: a change that no test notices is shown.

    python tools/mutate.py MODULE [TESTS ...] [--lines FROM-TO] [--change "OLD -> NEW"] [--jobs N]

MODULE is a file below src; TESTS are names of test modules, by default those that import it. `--change` makes the
changes that are typed instead of those of the rules. A change that no test notices may be an equivalent one: a
comparison at a value that never comes, a guard for speed. The others want a test.
"""

import argparse
import ast
import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise
from pathlib import Path
from queue import SimpleQueue
from typing import NamedTuple

ROOT = Path(__file__).parent.parent
SLOWEST = 600
COMPARISONS = {
    ast.Lt: "<=",
    ast.LtE: "<",
    ast.Gt: ">=",
    ast.GtE: ">",
    ast.Eq: "!=",
    ast.NotEq: "==",
    ast.In: "not in",
    ast.NotIn: "in",
    ast.Is: "is not",
    ast.IsNot: "is",
}
ARITHMETIC = {
    ast.Add: "-",
    ast.Sub: "+",
    ast.Mult: "/",
    ast.Div: "*",
    ast.FloorDiv: "/",
    ast.Pow: "*",
    ast.Mod: "//",
    ast.BitAnd: "|",
    ast.BitOr: "&",
}
MANY = 3
TWINS = {"min": "max", "max": "min", "minimum": "maximum", "maximum": "minimum", "any": "all", "all": "any"}
TWINS |= {"argmin": "argmax", "argmax": "argmin", "floor": "ceil", "ceil": "floor", "log2": "log", "log": "log2"}


class Mutant(NamedTuple):
    """One change of one expression: its place in the bytes of the module, and what stands there then."""

    line: int
    start: int
    end: int
    new: str


class _Places:
    """Byte offsets of the nodes of a module."""

    def __init__(self, source: bytes) -> None:
        self.source = source
        self._starts = [0]
        for line in source.splitlines(keepends=True):
            self._starts.append(self._starts[-1] + len(line))

    def start(self, node: ast.expr | ast.keyword) -> int:
        return self._starts[node.lineno - 1] + node.col_offset

    def end(self, node: ast.expr | ast.keyword) -> int:
        return self._starts[(node.end_lineno or node.lineno) - 1] + (node.end_col_offset or 0)

    def text(self, node: ast.expr) -> str:
        return self.source[self.start(node) : self.end(node)].decode()

    def instead(self, node: ast.expr, new: str) -> Mutant:
        return Mutant(node.lineno, self.start(node), self.end(node), new)

    def between(self, left: ast.expr, right: ast.expr, new: str) -> Mutant:
        """Another operator between two operands; brackets around these stay where they are."""
        start, end = self.end(left), self.start(right)
        found = self.source[start:end].decode()
        closing, opening = found.rfind(")") + 1, found.find("(") if "(" in found else len(found)
        return Mutant(left.end_lineno or left.lineno, start + closing, start + opening, f" {new} ")


def mutants_of(source: bytes) -> list[Mutant]:
    """Every mutant that the rules make of a module, from its first line to its last."""
    places = _Places(source)
    module = ast.parse(source)
    skipped = {id(node) for one in ast.walk(module) for node in _without_effect(one)}
    found = {
        mutant
        for node in ast.walk(module)
        if id(node) not in skipped and isinstance(node, ast.expr)
        for mutant in _mutants_at(node, places)
    }
    return sorted(found)


def _without_effect(node: ast.AST) -> Iterator[ast.AST]:
    """The parts of a node that say nothing to the tests: annotations, decorators, messages of errors."""
    parts: list[ast.AST | None] = []
    if isinstance(node, ast.arg | ast.AnnAssign):
        parts.append(node.annotation)
    if isinstance(node, ast.FunctionDef | ast.ClassDef):
        parts += node.decorator_list
    if isinstance(node, ast.FunctionDef):
        parts.append(node.returns)
    if isinstance(node, ast.Raise | ast.Assert | ast.JoinedStr):
        parts.append(node)
    for part in parts:
        if part is not None:
            yield from ast.walk(part)


def _mutants_at(node: ast.expr, places: _Places) -> Iterator[Mutant]:
    yield from _other_operators(node, places)
    yield from _other_values(node, places)


def _other_operators(node: ast.expr, places: _Places) -> Iterator[Mutant]:
    match node:
        case ast.Compare(left=left, ops=[operator], comparators=[right]):
            yield places.between(left, right, COMPARISONS[type(operator)])
        case ast.BinOp(left=left, op=operator, right=right) if type(operator) in ARITHMETIC:
            yield places.between(left, right, ARITHMETIC[type(operator)])
        case ast.BoolOp(op=operator, values=values):
            new = "or" if isinstance(operator, ast.And) else "and"
            yield from (places.between(one, other, new) for one, other in pairwise(values))
        case ast.UnaryOp(op=ast.Not() | ast.USub(), operand=operand):
            yield places.instead(node, f"({places.text(operand)})")
        case ast.IfExp(body=body, orelse=orelse):
            yield places.instead(node, f"({places.text(body)})")
            yield places.instead(node, f"({places.text(orelse)})")


def _other_values(node: ast.expr, places: _Places) -> Iterator[Mutant]:
    match node:
        case ast.Constant(value=bool(value)):
            yield places.instead(node, str(not value))
        case ast.Constant(value=int(value)) | ast.Constant(value=float(value)):
            yield places.instead(node, repr(value + 1))
        case ast.Call(func=ast.Name(id=name) | ast.Attribute(attr=name)) if name in TWINS:
            yield Mutant(node.lineno, places.end(node.func) - len(name), places.end(node.func), TWINS[name])
        case ast.Call(keywords=keywords):
            for one in keywords:
                if one.arg in ("kind", "key", "reverse", "initial"):
                    yield Mutant(one.lineno, places.start(one), places.end(one), "")
        case ast.Tuple(elts=elements) | ast.Set(elts=elements) if len(elements) > MANY:
            if all(isinstance(one, ast.Constant) and isinstance(one.value, str) for one in elements):
                yield places.instead(elements[-1], '"\\0"')


def typed_changes(source: bytes, changes: list[str]) -> list[Mutant]:
    """The mutants that are typed as ``OLD -> NEW``; OLD stands once in the module."""
    found = []
    for change in changes:
        old, arrow, new = change.partition(" -> ")
        if not arrow or source.count(old.encode()) != 1:
            sys.exit(f"--change {change!r}: it is OLD -> NEW, and OLD stands once in the module")
        start = source.index(old.encode())
        found.append(Mutant(source[:start].count(b"\n") + 1, start, start + len(old.encode()), new))
    return found


def tests_of(module: Path) -> list[str]:
    """The test modules that import a module."""
    dotted = ".".join(module.relative_to(ROOT / "src").with_suffix("").parts)
    found = []
    for path in sorted((ROOT / "tests").rglob("test_*.py")):
        imports = [node for node in ast.walk(ast.parse(path.read_text())) if isinstance(node, ast.ImportFrom)]
        if any(node.module == dotted for node in imports):
            found.append(".".join(path.relative_to(ROOT).with_suffix("").parts))
    return found


class Worker:
    """A copy of the package and its tests in which one mutant after the other is tried."""

    def __init__(self, folder: Path, module: Path, tests: list[str]) -> None:
        for name in ("src", "tests", "docs", "benchmarks", "tools"):
            shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__"))
        for name in ("pyproject.toml", "README.md", "CHANGELOG.md", "CITATION.cff", "CONTRIBUTING.md"):
            shutil.copy(ROOT / name, folder / name)
        self._folder = folder
        self._module = folder / module.relative_to(ROOT)
        self._source = self._module.read_bytes()
        self._command = [sys.executable, "-m", "unittest", "--failfast", "--quiet", *tests]

    def notices(self, mutant: Mutant | None) -> bool:
        """Whether a test fails, or no end is seen, with a mutant in place."""
        source = self._source
        if mutant is not None:
            source = source[: mutant.start] + mutant.new.encode() + source[mutant.end :]
        self._module.write_bytes(source)
        environment = {**os.environ, "PYTHONPATH": str(self._folder / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
        try:
            run = subprocess.run(
                self._command, cwd=self._folder, env=environment, capture_output=True, timeout=SLOWEST, check=False
            )
        except subprocess.TimeoutExpired:
            return True
        finally:
            self._module.write_bytes(self._source)
        return run.returncode != 0


def survivors(mutants: list[Mutant], workers: list[Worker]) -> Iterator[tuple[Mutant, bool]]:
    """Each mutant with whether it survives, in order."""
    free: SimpleQueue[Worker] = SimpleQueue()
    for worker in workers:
        free.put(worker)

    def survives(mutant: Mutant) -> bool:
        worker = free.get()
        try:
            return not worker.notices(mutant)
        finally:
            free.put(worker)

    with ThreadPoolExecutor(len(workers)) as pool:
        yield from zip(mutants, pool.map(survives, mutants), strict=True)


def main() -> int:
    parser = argparse.ArgumentParser(description=(__doc__ or "").partition("\n")[0])
    parser.add_argument("module", type=Path)
    parser.add_argument("tests", nargs="*")
    parser.add_argument("--lines", metavar="FROM-TO", default="1-1000000")
    parser.add_argument("--change", metavar="OLD -> NEW", action="append", default=[])
    parser.add_argument("--jobs", type=int, default=2)
    typed = parser.parse_args()
    module = typed.module.resolve()
    source = module.read_bytes()
    first, last = map(int, typed.lines.split("-"))
    mutants = typed_changes(source, typed.change) if typed.change else mutants_of(source)
    mutants = [one for one in mutants if first <= one.line <= last]
    tests = typed.tests or tests_of(module)
    if not tests:
        sys.exit(f"{typed.module}: no test imports it; name the tests that use it")
    print(f"{len(mutants)} mutants, tests: {' '.join(tests)}", flush=True)
    lines = source.decode().splitlines()
    survived = 0
    with tempfile.TemporaryDirectory() as folder:
        workers = [Worker(Path(folder) / str(number), module, tests) for number in range(typed.jobs)]
        if workers[0].notices(None):
            sys.exit("the tests fail with no mutant at all")
        for mutant, survives in survivors(mutants, workers):
            if survives:
                survived += 1
                old = source[mutant.start : mutant.end].decode()
                print(f"{mutant.line}: {lines[mutant.line - 1].strip()}\n    {old!r} -> {mutant.new!r}", flush=True)
    print(f"{len(mutants) - survived} of {len(mutants)} noticed")
    return int(survived > 0)


if __name__ == "__main__":
    sys.exit(main())
