"""The rules of the house: who imports whom, what help costs, how long a function may be."""

import ast
import json
import re
import shlex
import subprocess
import sys
import tomllib
import unittest
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import millstone
from millstone.analyses import COMMANDS, STEPS
from millstone.core.settings.declare import declared, option
from tests.cli.program import ProgramTest, Run

ROOT = Path(__file__).parent.parent
SOURCE = ROOT / "src" / "millstone"

# each layer uses those before it
LAYERS = ("core", "outputs", "texts", "analyses", "study")
ENTRANCES = ("library", "cli")
KEPT_OUT_OF_CORE = {"argparse", "matplotlib", "rich", "csv", "json", "tomllib"}
HEAVY = ("pandas", "scipy", "matplotlib", "rich")
# libraries that may be imported where they are used: extras, and what takes 20 ms or more, or is seldom needed
LATE = {
    *("pandas", "scipy", "matplotlib", "rich", "regex", "lxml", "openpyxl", "pypdfium2", "charset_normalizer"),
    *("simplemma", "lemminflect", "snowballstemmer", "stop_words", "platformdirs", "difflib", "urllib"),
    # extras, and what a system may lack
    *("pyarrow", "distributed", "dask", "upath", "HanTa", "filelock", "mmap"),
    # a start takes 60 ms in all
    *("pathlib", "concurrent", "importlib", "pkgutil", "tomllib", "traceback"),
}
MOST_LATE = 30
# of a signature of these alone nothing is left to be said but its first line
PLAIN = re.compile(
    r"(str|bool|int|float|bytes|None|object|Any|Kind|Path|Sequence|Iterable|Iterator|Collection|Mapping|Callable"
    r"|list|dict|tuple|set|frozenset|[\s|,.()\[\]])*"
)
# names that said nothing of the thing, or something else; each has a plain one now
RETIRED = (
    *("Reading", "Counted", "Material", "Workshop", "Described", "Describer", "Met", "Shelf", "Crew", "Sides"),
    *("Compared", "Places", "Spans", "Workroom", "Room", "Behind", "Drawing", "bring", "settle", "take_back"),
    *("looks_at_order", "reads_on", "of_terms", "of_plain_words", "of_repeats", "keeps_rows"),
    *("numbers_of", "numbers_in_order", "is_among", "recast", "docs_together", "odds_share", "foretold", "frozen_at"),
)


def modules() -> list[tuple[Path, ast.Module]]:
    return [(path, ast.parse(path.read_text("utf-8"))) for path in sorted(SOURCE.rglob("*.py"))]


def imports(tree: ast.AST) -> list[str]:
    found = []
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            found += [name.name for name in node.names]
        elif isinstance(node, ast.ImportFrom):
            found += [f"{node.module}.{name.name}" for name in node.names]
    return found


def late_imports(tree: ast.AST) -> list[ast.Import | ast.ImportFrom]:
    """The imports inside functions."""
    functions = [node for node in ast.walk(tree) if isinstance(node, ast.FunctionDef)]
    return [one for node in functions for one in ast.walk(node) if isinstance(one, ast.Import | ast.ImportFrom)]


def arrows(trees: dict[str, ast.AST]) -> dict[str, set[str]]:
    """Module -> the modules of the package that it imports: anywhere, for types alone too."""
    found: dict[str, set[str]] = {}
    for name, tree in trees.items():
        parts = [one.split(".") for one in imports(tree)]
        longest = (
            next((".".join(one[:n]) for n in (len(one), len(one) - 1) if ".".join(one[:n]) in trees), "")
            for one in parts
        )
        found[name] = {one for one in longest if one} - {name}
    return found


def circle(graph: dict[str, set[str]]) -> list[str]:
    """Modules that import each other in a circle; none where there is no circle."""
    left = {name: set(others) for name, others in graph.items()}
    while free := [name for name, others in left.items() if not others & left.keys()]:
        for name in free:
            del left[name]
    return sorted(left)


def sections_needed(function: ast.FunctionDef) -> list[str]:
    """The sections that the docstring of a public function must have."""
    within = function.args.posonlyargs + function.args.args + function.args.kwonlyargs
    given = ast.unparse(function.returns) if function.returns else "None"
    raises = any(isinstance(one, ast.Raise) and one.exc for one in own_statements(function))
    if not raises and all(PLAIN.fullmatch(one) for one in [*(ast.unparse(x.annotation) for x in within), given]):
        return []
    needed = {"Parameters": bool(within), "Returns|Yields": given != "None", "Raises": raises}
    return [f"(?m)^({section})\n-+$" for section, is_needed in needed.items() if is_needed]


def own_statements(node: ast.AST) -> Iterator[ast.AST]:
    """What stands in a function, but not in one within it."""
    for one in ast.iter_child_nodes(node):
        if not isinstance(one, ast.FunctionDef | ast.Lambda):
            yield one
            yield from own_statements(one)


class Layers(unittest.TestCase):
    def test_imports_go_one_way_and_in_no_circle(self):
        trees = {}
        for path, tree in modules():
            parts = path.relative_to(SOURCE.parent).with_suffix("").parts
            trees[".".join(part for part in parts if part != "__init__")] = tree
        graph = arrows(trees)
        self.assertEqual(circle(graph), [])
        for name, others in graph.items():
            layer, *_ = [*name.split(".")[1:], ""]
            above = LAYERS[: LAYERS.index(layer)] if layer in LAYERS else LAYERS
            for other in others:
                there = [*other.split(".")[1:], ""][0]
                if layer in (*LAYERS, *ENTRANCES, "data") and there != layer:
                    self.assertIn(there, above, f"{name} imports {other}")
            if layer == "core":
                self.assertFalse(KEPT_OUT_OF_CORE & {one.split(".")[0] for one in imports(trees[name])}, name)

    def test_what_is_imported_late_is_counted_and_has_a_reason(self):
        own = []
        for path, tree in modules():
            lines = path.read_text("utf-8").splitlines()
            found = sorted(late_imports(tree), key=lambda one: one.lineno)
            for one in found:
                names = imports(one)
                if names[0].split(".")[0] != "millstone":
                    self.assertIn(names[0].split(".")[0], LATE, path)
                    continue
                own.append(one)
                before = one.lineno - 2
                while lines[before].strip().startswith("from "):
                    before -= 1
                self.assertTrue(lines[before].strip().startswith("#"), f"{path}, line {one.lineno}: why late?")
        self.assertLessEqual(len(own), MOST_LATE)

    def test_the_checks_above_see_what_is_wrong(self):
        late = ast.parse("def f():\n    from millstone.cli import main\n    import matplotlib.figure")
        self.assertEqual(imports(late), ["millstone.cli.main", "matplotlib.figure"])
        self.assertEqual(len(late_imports(late)), 2)
        trees = {"a": ast.parse("from b import x"), "b": ast.parse("if T:\n    import c"), "c": ast.parse("import a")}
        self.assertEqual(circle(arrows(trees)), ["a", "b", "c"])
        self.assertEqual(circle(arrows({**trees, "c": ast.parse("x = 1")})), [])

    def test_every_layer_is_known(self):
        folders = {path.name for path in SOURCE.iterdir() if path.is_dir() and path.name != "__pycache__"}
        self.assertEqual(folders, {*LAYERS, *ENTRANCES, "data"})

    def test_the_architecture_names_what_exists(self):
        page = (ROOT / "docs" / "architecture.md").read_text("utf-8")
        paths = re.findall(r"`([a-z_/.]+(?:\.py|/))`", page)
        paths = [path for path in paths if "/" in path]
        self.assertGreater(len(paths), 50)
        for path in paths:
            self.assertTrue((SOURCE / path).exists() or (ROOT / path).exists(), path)
        commands = {path.parent for path in SOURCE.glob("analyses/*/command.py")}
        for room in {path.parent for path, _ in modules()} - {SOURCE} - (commands - {SOURCE / "analyses" / "base"}):
            self.assertIn(f"{room.relative_to(SOURCE)}/", page)
        route = page.partition("## From the line typed")[2].partition("A study (")[0]
        self.assertLessEqual(len(set(re.findall(r"`[a-z_/]+\.py`", route))), 14)

    def test_retired_words_and_riddles_do_not_come_back(self):
        for path, tree in modules():
            named = {one.id for one in ast.walk(tree) if isinstance(one, ast.Name)}
            named |= {one.name for one in ast.walk(tree) if isinstance(one, ast.ClassDef | ast.FunctionDef)}
            self.assertEqual(named & set(RETIRED), set(), path)
            for node in ast.walk(tree):
                if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef) and (
                    said := ast.get_docstring(node)
                ):
                    self.assertNotRegex(said, r"^(The same\b|What |That |The different )", path)

    def test_public_functions_of_the_core_say_what_they_take_give_and_raise(self):
        for path, tree in modules():
            if not path.is_relative_to(SOURCE / "core"):
                continue
            for node in tree.body:
                if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                    said = ast.get_docstring(node) or ""
                    for section in sections_needed(node):
                        self.assertRegex(said, section, f"{path}: {node.name}")

    def test_no_room_is_crowded(self):
        rooms: dict[Path, list[str]] = {}
        for path, _ in modules():
            rooms.setdefault(path.parent, []).append(path.name)
        for room, names in rooms.items():
            self.assertLessEqual(len(names), 14, f"{room.name}: {names}")

    def test_functions_and_modules_stay_short_and_public_ones_are_explained(self):
        for path, tree in modules():
            self.assertLessEqual(len(path.read_text("utf-8").splitlines()), 400, path.name)
            for node in ast.walk(tree):
                if isinstance(node, ast.FunctionDef):
                    docstring = ast.get_docstring(node) or ""
                    length = node.end_lineno - node.lineno - len(docstring.splitlines())
                    self.assertLessEqual(length, 45, f"{path.name}: {node.name}")
            for node in tree.body:
                if (
                    isinstance(node, ast.FunctionDef | ast.ClassDef)
                    and not node.name.startswith("_")
                    and node.name != "run"
                ):
                    self.assertTrue(ast.get_docstring(node), f"{path.name}: {node.name} has no docstring")


class StartUp(unittest.TestCase):
    def test_it_runs_as_a_module(self):
        command = [sys.executable, "-m", "millstone", "--version"]
        done = subprocess.run(command, capture_output=True, text=True, check=True)
        self.assertEqual(done.stdout, f"millstone {millstone.__version__}\n")

    def test_help_version_and_a_slip_of_the_pen_import_nothing_heavy(self):
        table = [(0, one) for one in (["--help"], ["keyness", "--help"], ["chart", "--help-all"], ["--cite"])]
        slips = (
            ["freq", "x", "--topp", "3"],
            ["check", "x", "--show", "y"],
            ["chart", "--x"],
            ["freq"],
            ["frq", "x"],
        )
        for status, arguments in [*table, *((2, one) for one in slips)]:
            code = (
                "import sys, json, io, contextlib; from millstone.cli.main import main\n"
                f"with contextlib.redirect_stdout(io.StringIO()): status = main({arguments!r})\n"
                f"print(json.dumps([status, [name for name in {HEAVY!r} if name in sys.modules]]))"
            )
            with self.subTest(arguments):
                done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
                self.assertEqual(json.loads(done.stdout), [status, []])

    def test_the_list_of_commands_is_that_of_their_modules(self):
        folders = {path.parent.name for path in SOURCE.glob("analyses/*/command.py")} - {"base"}
        self.assertEqual(set(STEPS), folders)
        self.assertEqual([command.name for command in STEPS.values()], list(STEPS))

    def test_counting_comparing_and_reading_need_numpy_alone(self):
        table = f"{ROOT / 'src/millstone/data/demo/guestbook.csv'} --text entry --group hut --quiet --no-cache"
        heavy = (*(name for name in HEAVY if name != "numpy"), "lxml", "scipy.sparse", "scipy.special", "numpy.ma")
        for command in (
            "freq",
            "freq --wide",
            "freq --ngram 2 --min-freq 3",
            "keyness",
            "keyness --against pairs",
            "logodds",
            f"categories --dictionary {ROOT / 'src/millstone/data/demo/dictionary.toml'}",
            "concordance --find rope",
            "check",
        ):
            code = (
                "import sys, json, io, contextlib; from millstone.cli.main import main\n"
                f"with contextlib.redirect_stdout(io.StringIO()): status = main({[*command.split(), *table.split()]!r})\n"
                f"print(json.dumps([status, [name for name in {heavy!r} if name in sys.modules]]))"
            )
            with self.subTest(command):
                done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
                self.assertEqual(json.loads(done.stdout), [0, []])


class Settings(unittest.TestCase):
    def test_each_setting_is_declared_once_in_a_command(self):
        for command in COMMANDS.values():
            names = command.names()
            self.assertEqual(len(names), len(set(names)), command.name)
            for part in command.parts():
                for name, field in declared(part).items():
                    self.assertTrue(field.metadata["help"], name)
                    self.assertEqual(bool(field.metadata["off"]), field.default is True, name)

    def test_version_and_citation_agree(self):
        citation = (ROOT / "CITATION.cff").read_text("utf-8")
        self.assertIn(f"version: {millstone.__version__}\n", citation)
        first_study = (ROOT / "docs" / "first-study.md").read_text("utf-8")
        self.assertIn(f"computed with millstone {millstone.__version__} ", first_study)
        self.assertIn(f"## {millstone.__version__}", (ROOT / "CHANGELOG.md").read_text("utf-8"))
        project = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]
        self.assertEqual(project["dynamic"], ["version"])


class Documents(ProgramTest):
    """What help and README say is true."""

    takes_long = True

    def help_of(self, name: str, *arguments: str) -> str:
        return self.succeeds(name, "--help", *arguments).out

    def test_links_lead_somewhere_and_the_site_has_all_pages(self):
        guides = [ROOT / name for name in ("README.md", "CONTRIBUTING.md", "CHANGELOG.md")]
        guides += sorted((ROOT / "docs").rglob("*.md"))
        for page in guides:
            text = re.sub(r"```.*?```|`[^`\n]*`", "", page.read_text("utf-8"), flags=re.DOTALL)
            for target in re.findall(r"\]\(([^)\s]+)\)", text):
                path, _, anchor = target.partition("#")
                if target.startswith(("https://", "mailto:")):
                    continue
                found = (page.parent / path).resolve() if path else page
                self.assertTrue(found.exists(), f"{page.name}: {target}")
                if anchor:
                    heads = re.findall(r"^#+ (.*)$", found.read_text("utf-8"), re.MULTILINE)
                    known = {re.sub(r"[^\w -]", "", head.lower()).replace(" ", "-") for head in heads}
                    self.assertIn(anchor, known, f"{page.name}: {target}")
        named = set(re.findall(r": ([\w/-]+\.md)$", (ROOT / "mkdocs.yml").read_text("utf-8"), re.MULTILINE))
        lying = {str(page.relative_to(ROOT / "docs")) for page in (ROOT / "docs").rglob("*.md")}
        self.assertEqual(named, lying)

    def test_prose_is_no_wider_than_an_editor(self):
        for page in (*ROOT.glob("*.md"), *(ROOT / "docs").glob("*.md"), ROOT / "benchmarks" / "README.md"):
            for block in page.read_text("utf-8").split("```")[::2]:
                # a row of a table is one line; a picture has its text beside its path
                wide = [
                    line for line in block.splitlines() if len(line) > 120 and not line.startswith(("|", "[![", "!["))
                ]
                self.assertEqual(wide, [], page.name)

    def test_help_is_short_and_help_all_is_whole(self):
        for name, command in COMMANDS.items():
            with self.subTest(name):
                brief, full = self.help_of(name), self.help_of(name, "--help-all")
                self.assertLessEqual(len(brief.splitlines()), 60, "two screens of thirty lines")
                hidden = () if command.chooses_rows else ("top", "sort", "match", "columns")
                for key in command.names():
                    if key not in ("input", "fields", "of", *hidden):
                        self.assertIn(key.replace("_", "-"), full)
                for key, field in declared(command.settings).items():
                    if not field.metadata["kind"].positional:
                        self.assertIn(option(f"no_{key}" if field.default is True else key), brief)

    def test_every_example_runs_as_it_stands(self):
        examples = [example for command in STEPS.values() for example in command.examples]
        for name in ("init", "run", "chart", "cache"):
            lines = self.help_of(name).partition("examples")[2].splitlines()[1:]
            examples += [line.strip().removeprefix("millstone ") for line in lines if line.strip()]
        self.assertGreaterEqual(len(examples), 16)
        pages = list(documented_examples().values())
        # two folders, so that two can run at a time; what stands on one page stays together
        pages.sort(key=len)
        with ThreadPoolExecutor(2) as pool:
            runs = [*pool.map(self.all_in_one_folder, ("one", "two"), (pages[0::2], [examples, *pages[1::2]]))]
        for example, run in (one for part in runs for one in part):
            with self.subTest(example):
                self.assertEqual(run.code, 0, run.err)

    def all_in_one_folder(self, folder: str, pages: list[list[str]]) -> list[tuple[str, Run]]:
        """Run the examples of some pages in a separate demo."""
        demo = self.millstone("demo", f"{folder}/huts", "--quiet")
        inside = self.folder / folder / "huts"
        # what is typed twice gives the same twice
        examples = dict.fromkeys(example for page in pages for example in page)
        return [("demo", demo), *((one, self.millstone(*shlex.split(one), inside=inside)) for one in examples)]

    def test_numbers_quoted_in_the_guides_are_those_of_the_demo(self):
        self.succeeds("demo", "huts", "--quiet")
        huts, texts = self.folder / "huts", ("guestbook.csv", "--text", "entry", "--id", "entry_id", "--group", "hut")
        two = (
            "keyness",
            *texts,
            "--stop",
            "en",
            "--min-freq",
            "5",
            "--where",
            "hut != Haskgate",
            "--match",
            "pancakes",
        )

        def row(*arguments: str, **chosen: str) -> dict[str, float]:
            for one in self.succeeds(*arguments, inside=huts).rows():
                if chosen.items() <= one.items():
                    return {name: float(one[name]) for name in one if re.fullmatch(r"-?[\d.]+(e-\d+)?", one[name])}
            self.fail(f"no row {chosen}")

        freq = self.succeeds("freq", *texts, "--stop", "en", "--length", "4..", inside=huts).err
        left_out = next(line for line in freq.splitlines() if line.startswith("left out"))
        tokens = left_out.split(" of ")[1].split()[0]
        key, ranked = row(*two), row(*two, "--test", "rank")
        fear = row(
            *("contrast", *texts, "--dictionary", "dictionary.toml"),
            value="fear",
            group_a="Haskgate",
            group_b="Ostrel",
        )
        found = row("agreement", "coding.csv", "--arbiter", "C", category="animals")
        coded = ("--unit", "sentence", "--corrected-by", "coding.csv", "--arbiter", "C", "--same-rates")
        chosen = {"category": "animals", "group_a": "Fallowmere", "group_b": "Haskgate"}
        shares = row("contrast", *texts, "--dictionary", "dictionary.toml", "--select", "animals", *coded, **chosen)
        self.assertLess(ranked["p_adjusted"], 0.0001)
        for page, quoted in (
            ("first-study.md", left_out),
            ("first-study.md", f"1,095 guest-book entries\nwith {tokens} tokens"),
            ("keyness.md", f"{key['freq_target']:.0f} times in Fallowmere and {key['freq_reference']:.0f} times"),
            ("keyness.md", f"is {2 ** key['log_ratio']:.1f} times as frequent there"),
            (
                "keyness.md",
                f"at least {2 ** key['log_ratio_low']:.1f} times (2 to the power of {key['log_ratio_low']:.2f}",
            ),
            ("keyness.md", f"log ratio {key['log_ratio']:.2f}, 95 % interval {key['log_ratio_low']:.2f}"),
            ("keyness.md", f"to {key['log_ratio_high']:.2f}; adjusted p < 0.0001"),
            ("evidence.md", f"log ratio {key['log_ratio']:.2f}, 95 % interval {key['log_ratio_low']:.2f}"),
            ("evidence.md", f"to {key['log_ratio_high']:.2f}; adjusted p < 0.0001"),
            ("contrasts.md", f"(means {fear['mean_b']:.2f} and {fear['mean_a']:.2f} places per 100 words"),
            ("contrasts.md", f"difference {-fear['difference']:.2f}, 95 % interval {-fear['ci_high']:.2f}"),
            ("contrasts.md", f"to {-fear['ci_low']:.2f}; Hedges' g = {-fear['hedges_g']:.2f}"),
            ("contrasts.md", f"Hochberg {fear['p_adjusted']:.4f}"),
            ("measurement.md", f"alpha {found['alpha']:.2f}, 95 % interval {found['alpha_low']:.2f}"),
            ("measurement.md", f"{found['precision']:.2f} of its hits ({found['precision_low']:.2f}"),
            (
                "measurement.md",
                f"found {found['recall']:.2f} of the sentences with an animal ({found['recall_low']:.2f}",
            ),
            ("measurement.md", f"in {shares['corrected_a']:.1f} % of the sentences of Fallowmere"),
            (
                "measurement.md",
                f"(difference {shares['corrected_difference']:.1f} points, {shares['corrected_low']:.1f} to",
            ),
            ("measurement.md", f"{shares['corrected_high']:.1f}; {shares['difference']:.1f} as counted)"),
        ):
            with self.subTest(page):
                said = (ROOT / "docs" / page).read_text("utf-8").replace("\n> ", "\n")
                self.assertIn(" ".join(quoted.split()), " ".join(said.split()))

    def test_set_up_commands_of_the_readme_are_those_of_ci(self):
        readme = (ROOT / "README.md").read_text("utf-8")
        test_command = next(line for line in readme.splitlines() if "unittest" in line and "venv" in line)
        self.assertIn(test_command.strip(), (ROOT / ".ci" / "run").read_text("utf-8"))
        for shot in (ROOT / "docs" / "screenshots").glob("*.png"):
            self.assertIn(f"docs/screenshots/{shot.name}", readme)


def documented_examples() -> dict[str, list[str]]:
    """Page -> the commands of README and guides in blocks that are marked as run in the demo's folder."""
    found = {}
    for path in (ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))):
        blocks = path.read_text("utf-8").split("```console demo\n")[1:]
        lines = [line for block in blocks for line in block.split("```")[0].splitlines()]
        found[path.name] = [line.removeprefix("$ millstone ") for line in lines if line.startswith("$ millstone ")]
    return found


if __name__ == "__main__":
    unittest.main()
