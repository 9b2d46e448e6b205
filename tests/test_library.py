"""The analyses as functions: the same numbers and files as the command line, from paths and from memory."""

import datetime
import inspect
import os
import re
import unittest
from pathlib import Path

import numpy as np
import pandas as pd
from matplotlib.figure import Figure

import millstone
from millstone.analyses import COMMANDS
from millstone.core.base.errors import DataError, MillstoneError, UsageError
from millstone.library.signatures import stub
from tests.cli.program import ProgramTest

TABLE = "entry_id,hut,nights,year,entry\n" + "".join(
    f"g{n},{hut},{n % 3},{2010 + n // 4},The {word} froze and the {word} held. {other} {n % 4} by the stove.\n"
    for n in range(24)
    for hut, word, other in [(("Ostrel", "rope", "Ice"), ("Fallowmere", "boat", "Lake"))[n % 2]]
)
OF_TABLE = {"text": "entry", "id": "entry_id", "group": "hut"}
CALLS = {
    "freq": {"stop": ["en"], "min_freq": 2, "ngram": "1..2"},
    "profile": {"numbers": "drop"},
    "matrix": {"by": "group", "weight": "relative"},
    "keyness": {"against": "pairs", "measures": ["odds_ratio", "bic"], "min_freq": 2, "top": 4},
    "logodds": {"prior": "uniform", "drop": ["s*", "t*"]},
    "contrast": {"dictionary": ["d.toml"], "by_length": True, "interval": "bootstrap", "seed": 3},
    "trend": {"over": "year", "min_freq": 2},
    "plan": {"power": 0.7, "min_freq": 2},
    "vary": {"of": "keyness", "over": ["stop: none | en", "min-freq: 1 | 2"], "min_docs": 2},
    "categories": {"dictionary": ["d.toml"], "scale": "per_thousand"},
    "code": {"dictionary": ["d.toml"], "sample": 8, "select": "cold"},
    "agreement": {"arbiter": "C"},
    "concordance": {"find": ["rope", "boat"], "context": 4, "sort": "right"},
    "collocates": {"find": ["rope"], "span": [3, 2], "min_together": 1},
    "dispersion": {"min_freq": 3},
    "wordtree": {"find": ["the"], "side": "left"},
    "alike": {"find": ["rope"], "unit": "sentence"},
    "network": {"unit": "sentence", "association": "npmi"},
}


def typed(options: dict[str, object]) -> list[str]:
    """Keyword arguments as one would type them."""
    found = []
    for name, value in options.items():
        option = f"--{name.replace('_', '-')}"
        several = value if isinstance(value, list) else [value]
        joined = name in ("measures", "span")
        found += [option] if value is True else []
        found += [f"{option}={','.join(map(str, several))}"] if joined else []
        found += [] if joined or value is True else [f"{option}={one}" for one in several]
    return found


class Library(ProgramTest):
    def setUp(self):
        super().setUp()
        self.write("guestbook.csv", TABLE)
        self.write("d.toml", '[categories]\ncold = ["ice", "froze"]\nwarm = ["stove"]\n')
        before = Path.cwd()
        os.chdir(self.folder)
        self.addCleanup(os.chdir, before)

    def test_each_function_gives_the_files_of_its_command(self):
        self.assertEqual(set(CALLS), set(COMMANDS))
        for name, options in CALLS.items():
            with self.subTest(name):
                reads_texts = COMMANDS[name].reads_texts
                source, own = ("guestbook.csv", OF_TABLE) if reads_texts else (self.filled_sheet(), {})
                every = {**own, **options}
                of = [every["of"]] if "of" in every else []
                rest = {key: value for key, value in every.items() if key != "of"}
                self.succeeds(name, *of, source, *typed(rest), "-o", f"{name}.csv")
                found = getattr(millstone, name)(source, **every)
                content = {end: (self.folder / f"{name}.csv{end}").read_bytes() for end in ("", "-metadata.json")}
                self.assertEqual(found.save(f"{name}.csv")[0].name, f"{name}.csv")
                for end, before in content.items():
                    self.assertEqual((self.folder / f"{name}.csv{end}").read_bytes(), before)
                if name != "matrix":
                    self.assertEqual(len(found.frame), len(self.table(f"{name}.csv")))
                self.assertLessEqual(set(found.settings), {*every, "group", "text", "id"})

    def filled_sheet(self) -> str:
        """The sheet that the call of code made, filled in by a coder C."""
        sheet = self.folder / "code.csv"
        sheet.write_text(re.sub("(?m)^A,(.*),$", r"C,\1,1", sheet.read_text("utf-8")), "utf-8")
        return "code.csv"

    def test_tables_and_texts_in_memory_are_as_good_as_files(self):
        frame = pd.read_csv("guestbook.csv")
        from_path = millstone.keyness("guestbook.csv", **OF_TABLE)
        pd.testing.assert_frame_equal(millstone.keyness(frame, **OF_TABLE).frame, from_path.frame)
        texts = {hut: rows["entry"].tolist() for hut, rows in frame.groupby("hut")}
        from_lists = millstone.keyness(texts)
        columns = ["target", "term", "freq_target", "ll", "log_ratio_low"]
        pd.testing.assert_frame_equal(from_lists.frame[columns], from_path.frame[columns])
        self.assertFalse(any(os.sep in note for note in from_lists.notes), from_lists.notes)
        lines = millstone.concordance(["The rope. A rope."], find="rope").frame
        self.assertEqual(lines[["document", "group", "left"]].to_numpy().tolist()[1], ["1", "texts", "The rope. A"])
        odd = pd.DataFrame(
            {
                "t": ["ice\nand\tsnow", None, 'a "b"'],
                "day": [datetime.date(2020, 2, 3), None, datetime.date(2021, 2, 3)],
                "n": np.array([1, 2, 3], dtype=np.int32),
                7: [1.5, float("nan"), 2.0],
            }
        )
        self.assertEqual(millstone.freq(odd, text="t", group="day").groups[0].name, "2020-02-03")
        self.assertEqual(millstone.freq(odd, text="t", where="n >= 2").frame["term"].tolist(), ["a", "b"])
        self.assertEqual(millstone.freq(odd, text="t", where="7 > 1.6").frame["term"].tolist(), ["a", "b"])

    def test_figures_of_all_kinds(self):
        found = millstone.freq("guestbook.csv", **OF_TABLE)
        for kind in ("", "cloud", "rank", "growth"):
            self.assertIsInstance(found.chart(kind), Figure)
        drawn = found.chart("cloud", chart_title="Two huts", chart_colors=["navy", "teal"], chart_top=3)
        self.assertEqual(drawn.get_suptitle(), "Two huts")
        self.assertEqual([len(axes.patches) for axes in drawn.axes], [3, 3])
        means = millstone.contrast("guestbook.csv", **OF_TABLE, dictionary="d.toml", omnibus=False)
        self.assertIsInstance(means.chart("documents"), Figure)
        for call, error in (
            (lambda: found.chart("pie"), DataError),
            (lambda: found.chart(colour="red"), UsageError),
            (lambda: millstone.matrix("guestbook.csv", **OF_TABLE).chart(), UsageError),
        ):
            self.assertRaises(error, call)

    def test_further_tables_and_what_is_wrong(self):
        parts = {**OF_TABLE, "unit": "parts:2", "dictionary": "d.toml"}
        self.assertIn("slope", millstone.contrast("guestbook.csv", **parts, trend=True).tables["trend"].columns)
        for wrong, what in (
            ({"txt": "entry"}, "keyness has no option 'txt'; did you mean 'text'?"),
            ({"min_freq": -1}, "min_freq must be 1 or more"),
            ({"text": "entrie", "group": "hut"}, "has no column 'entrie'"),
            ({"quite": True}, "has no option 'quite'"),
        ):
            with self.assertRaisesRegex(MillstoneError, what) as caught:
                millstone.keyness("guestbook.csv", **wrong)
            self.assertTrue(caught.exception.remedy)
        with self.assertRaisesRegex(UsageError, "an input is a int"):
            millstone.freq(3)
        with self.assertRaisesRegex(DataError, "already there|not one of|was not written"):
            self.write("mine.csv", "a\n")
            millstone.freq("guestbook.csv", **OF_TABLE).save("mine.csv")
        self.assertEqual((self.folder / "mine.csv").read_text("utf-8"), "a\n")

    def test_odd_tables_in_memory(self):
        table = pd.DataFrame({"t": ["ice", "snow"], "g": ["a", "b"]}, dtype=object)
        for odd, what in (
            (table.assign(t=[b"ice", b"snow"]), "row 1: t holds bytes"),
            (table.set_axis(["t", "t"], axis=1), "two columns 't'"),
            (table.iloc[:0], "is empty"),
            (table.assign(g=["a", pd.NaT]), "row 2: the group column 'g' is empty"),
            (table.assign(t=["a\0b", "c"]), "zero character"),
        ):
            with self.subTest(what), self.assertRaisesRegex(MillstoneError, what):
                millstone.freq(odd, text="t", group="g")
        halves = millstone.freq(table.assign(g=pd.Series(["a\ud800", "b"], dtype=object)), text="t", group="g")
        self.assertEqual([size.name for size in halves.groups], ["a\\ud800", "b"])

    def test_a_notebook_shows_a_table_and_nothing_runs_in_it(self):
        found = millstone.freq({"<script>": ["<b>ice</b> snow"]}, tokens="spaces")
        shown = found._repr_html_()
        self.assertIn("&lt;script&gt;", shown)
        self.assertNotIn("<script>", shown)
        self.assertIn("freq: 2 rows", repr(found))

    def test_an_editor_knows_the_options(self):
        self.assertEqual((Path(millstone.__file__).parent / "__init__.pyi").read_text("utf-8"), stub())
        for name, command in COMMANDS.items():
            given = set(inspect.signature(getattr(millstone, name)).parameters)
            named = {one.rstrip("_") for one in given}
            self.assertEqual(
                named,
                {*command.names(), "inputs", *(["options"] if command.varies else [])}
                - {"input", "fields", "legend", "say", "quiet"},
            )
            self.assertIn("Parameters", getattr(millstone, name).__doc__)
        self.assertLess({"keyness", "freq", "__version__"}, set(dir(millstone)))
        with self.assertRaises(AttributeError):
            millstone.nothing_of_the_kind  # noqa: B018


if __name__ == "__main__":
    unittest.main()
