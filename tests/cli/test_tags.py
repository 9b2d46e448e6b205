"""Raw text that is tagged behaves as annotated text does."""

import csv
import io

from millstone.core.corpus.corpus import Document
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tags.tagging import with_tags
from tests.cli.program import ProgramTest

TEXTS = {
    "a/1": "The warden lights the old stove. Light snow fell on the huts, and we didn't see the path. Two dogs barked!",
    "a/2": "A light wind; the huts’ lamps were lit. They walk slowly and never walked so far.",
    "b/1": "Walking is fun, says Maud. The walk to Fallowmere took 3.5 hours of cold, grey rain.",
    "b/2": "",
}


def conllu_of(name: str, text: str) -> str:
    (document,) = with_tags([Document(name, "g", text)], "en", "words", 1, Provenance())
    lines, number = [f"# newdoc id = {name}"], 0
    for token in document.annotated:
        number = number + 1 if token else 0
        lines.append(f"{number}\t{token.form}\t{token.lemma}\t{token.tag}{6 * (chr(9) + '_')}" if token else "")
    return "\n".join(lines) + "\n"


class Tags(ProgramTest):
    def texts(self) -> None:
        for name, text in TEXTS.items():
            self.write(f"raw/{name}.txt", text)
            if text:
                self.write(f"annotated/{name}.conllu", conllu_of(f"{name}.txt", text))

    def test_tagged_text_is_as_annotated_text(self):
        self.texts()
        (self.folder / "raw/b/2.txt").unlink()
        self.write(
            "d.toml",
            '[categories]\nlight = [{entry = "light*", pos = "VERB"}]\nwalk = [{entry = "walk*", pos = "NOUN"}]\n',
        )
        asked = [
            ("freq", "--pos", "NOUN,PROPN", "--lemmas", "given"),
            ("freq", "--count-tags", "--group", "folder"),
            ("freq", "--count-tags", "--stop", "en"),
            ("keyness", "--lemmas", "given", "--group", "folder", "--min-freq", "1"),
            ("categories", "--dictionary", "d.toml", "--scale", "count"),
            ("concordance", "--find", "light, walk*", "--pos", "VERB", "--context", "3"),
            ("concordance", "--find", "walk", "--lemmas", "given", "--context", "sentence"),
            ("profile", "--per-document"),
            ("profile", "--group", "folder", "--pos", "NOUN"),
            ("contrast", "--values", "noun_percent,verb_percent,intj_percent", "--group", "folder"),
            ("network", "--pos", "NOUN", "--unit", "sentence", "--min-together", "1"),
            ("dispersion", "--find", "lit", "--pos", "VERB"),
        ]
        both = [
            self.several([(one[0], source, *one[1:], *tag) for one in asked])
            for source, tag in (("raw", ("--tag", "en")), ("annotated", ()))
        ]
        for one, raw, annotated in zip(asked, *both, strict=True):
            with self.subTest(one):
                self.assertEqual((raw.code, annotated.code), (0, 0), raw.err + annotated.err)
                rows = raw.rows()
                self.assertTrue(rows)
                # annotated tokens stand in a row with single blanks
                kept = [{name: cell for name, cell in row.items() if name not in ("left", "right")} for row in rows]
                other = [
                    {name: cell for name, cell in row.items() if name not in ("left", "right")}
                    for row in annotated.rows()
                ]
                self.assertEqual(kept, other)
                self.assertIn("note: parts of speech and lemmas are guessed: HanTa", raw.err)
                self.assertNotIn("guessed", annotated.err)
        self.succeeds("freq", "raw", "--tag", "en", "--count-tags", "--ngram", "2", "-o", "pairs.csv", "--quiet")
        pairs = list(csv.DictReader(io.StringIO((self.folder / "pairs.csv").read_text("utf-8"))))
        row = next(number for number, one in enumerate(pairs, 1) if one["term"] == "ADJ NOUN")
        lines = self.succeeds("concordance", "--from", "pairs.csv", "--row", str(row)).rows()
        self.assertEqual(len(lines), int(pairs[row - 1]["freq"]))
        self.assertIn("old stove", [line["found"] for line in lines])
        lit = self.succeeds("concordance", "raw", "--tag", "en", "--find", "didn't", "--context", "1").rows()[0]
        self.assertEqual((lit["left"], lit["found"], lit["right"]), ("we", "didn't", "see"))

    def test_wrong_questions_and_own_tags(self):
        self.texts()
        self.each_fails(
            [
                (2, "--tag: must be one of en, de, nl, not 'xx'", "", "freq", "raw", "--tag", "xx"),
                (1, "--pos needs annotated texts", "--tag en guesses them", "freq", "raw", "--pos", "NOUN"),
                (1, "--count-tags needs annotated texts", "--tag en", "freq", "raw", "--count-tags"),
                (1, "--values noun_percent needs texts with universal tags", "--tag en", "contrast", "raw", "--group", "folder", "--values", "noun_percent"),
            ]
        )  # fmt: skip
        own = self.succeeds("freq", "annotated", "--tag", "en", "--count-tags")
        self.assertIn("texts that have tags keep their own; --tag is for raw text", own.err)
        self.assertNotIn("guessed", own.err)
        self.write(
            "s.toml",
            '[study]\noutput = "out"\n[corpus]\ninput = ["raw"]\n[prepare]\ntag = "en"\npos = ["NOUN"]\n[[step]]\ncommand = "freq"\noutput = "f.csv"\n',
        )
        self.succeeds("run", "s.toml")
        checked = self.succeeds("check", "raw", "--tag", "en", "--pos", "NOUN", "--explain", "light").out
        self.assertIn("part of speech", checked)
