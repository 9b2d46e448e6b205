"""Tags of raw text: mapped to the universal ones, on exactly the tokens of the text."""

import csv
import io
import random
import re
import unicodedata
import unittest
from importlib import resources
from unittest import mock

from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Document
from millstone.core.scan.scan import scan
from millstone.texts.inputs.lists.english_lemmas import english_lemmas
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tags import tagger
from millstone.texts.inputs.tags.tag_sets import universal_tag
from millstone.texts.inputs.tags.tagger import check_tagger
from millstone.texts.inputs.tags.tagging import with_tags

UNIVERSAL = {
    "ADJ",
    "ADP",
    "ADV",
    "AUX",
    "CCONJ",
    "DET",
    "INTJ",
    "NOUN",
    "NUM",
    "PART",
    "PRON",
    "PROPN",
    "PUNCT",
    "SCONJ",
    "SYM",
    "VERB",
    "X",
}
NO_CLASS = {"en": {"!!!", "UNC", "ZZ0"}, "de": {"FM", "TRUNC", "XY"}}


def tags_of(language: str, text: str) -> list[tuple[str, str, str]]:
    (document,) = with_tags([Document("d", "g", text)], language, "words", 1, Provenance())
    return [tuple(token) for token in document.annotated if token is not None]


class TagSets(unittest.TestCase):
    def test_every_tag_of_every_model_has_a_universal_one(self):
        for language in tagger.LANGUAGES:
            model = tagger._model(language)
            tags = {tag.removeprefix("END_") for number, tag in model.int2tag.items() if number < 0} - {"UNKNOWN"}
            self.assertGreater(len(tags), 50)
            for tag in tags:
                found = universal_tag(language, tag)
                with self.subTest(language, tag=tag):
                    self.assertIn(found, UNIVERSAL)
                    is_none = tag.startswith("SPEC(") if language == "nl" else tag in NO_CLASS[language]
                    self.assertEqual(found in ("X", "SYM"), is_none)
        for language, tag, lemma, expected in (
            ("en", "NN2", "", "NOUN"),
            ("de", "$,", "", "PUNCT"),
            ("de", "PPOSAT", "", "DET"),
            ("nl", "WW(inf,vrij,zonder)", "lopen", "VERB"),
            ("nl", "WW(inf,vrij,zonder)", "worden", "AUX"),
            ("nl", "N(eigen,mv,basis)", "", "PROPN"),
            ("nl", "QQ", "", "X"),
        ):
            self.assertEqual(universal_tag(language, tag, lemma), expected)


class Tagging(unittest.TestCase):
    def test_by_hand(self):
        for language, text, expected in (
            ("en", "We didn’t see the warden’s huts.", [("We", "we", "PRON"), ("didn’t", "do", "AUX"), ("see", "see", "VERB"), ("the", "the", "DET"), ("warden’s", "warden", "NOUN"), ("huts", "hut", "NOUN"), (".", ".", "PUNCT")]),
            ("de", "Die alten Hütten standen leer.", [("Die", "der", "DET"), ("alten", "alt", "ADJ"), ("Hütten", "Hütte", "NOUN"), ("standen", "stehen", "VERB"), ("leer", "leer", "ADJ"), (".", ".", "PUNCT")]),
            ("nl", "Jan heeft de oude hutten gezien.", [("Jan", "Jan", "PROPN"), ("heeft", "hebben", "AUX"), ("de", "de", "DET"), ("oude", "oud", "ADJ"), ("hutten", "hut", "NOUN"), ("gezien", "zien", "VERB"), (".", ".", "PUNCT")]),
        ):  # fmt: skip
            self.assertEqual(tags_of(language, text), expected)

    PIECES = ("can't", "rock-’n’-roll", "e-mail", "3.5", "12,5km", "“Don’t", "re\u00adad", "cafe\u0301", "👩🏽‍🚒", "...", "—", "(so)", "\ufb01sh", "U.S.", "L'été", "x" * 80, "雪山に。", "!?", "it's.", "–-", "$5", "a/b", "@hut", "№")  # fmt: skip

    def test_tokens_and_sentences_are_those_of_the_raw_text(self):
        chance = random.Random(2)
        for trial in range(40):
            text = " ".join(chance.choices(self.PIECES, k=30))
            text = unicodedata.normalize("NFC", text) if trial % 2 else text
            for rule in ("words", "spaces", "pattern:[a-z]+"):
                raw = Document("d", "g", text)
                (document,) = with_tags([raw], "en", rule, 1, Provenance())
                for marks in (False, True):
                    corpora = [scan([one], ordered=True, rule=rule, marks=marks) for one in (raw, document)]
                    tokens = [[one.forms[number] for number in one.sequence[0].tolist()] for one in corpora]
                    with self.subTest(trial, text=text, rule=rule, marks=marks):
                        self.assertEqual(tokens[1], tokens[0])
                        self.assertEqual(corpora[1].sequence[2].tolist(), corpora[0].sequence[2].tolist())
                        self.assertEqual(corpora[1].tokens.tolist(), corpora[0].tokens.tolist())

    def test_a_stream_keeps_its_order_whatever_the_number_of_processes(self):
        words = ["The", "old", "warden", "walked", "up", "to", "the", "hut", "and", "lit", "a", "stove", "."]
        chance = random.Random(4)
        texts = [" ".join(chance.choices(words, k=chance.randint(1, 900))) for _ in range(25)]
        texts[3] = ""
        texts[7] *= 30
        streams = []
        for jobs in (1, 2, 3):
            provenance = Provenance()
            documents = (Document(str(number), "g", text) for number, text in enumerate(texts))
            streams.append(list(with_tags(documents, "en", "words", jobs, provenance)))
            self.assertRegex(
                " ".join(provenance.notes), r"^parts of speech and lemmas are guessed: HanTa [\d.]+, English$"
            )
        self.assertEqual([document.name for document in streams[0]], [str(number) for number in range(25)])
        self.assertEqual(streams[0], streams[1])
        self.assertEqual(streams[0], streams[2])

    def test_no_lemma_is_made_up(self):
        sample = resources.files("millstone.data").joinpath("demo/guestbook.csv").read_text("utf-8")
        entries = [row["entry"] for row in csv.DictReader(io.StringIO(sample))][:120]
        known = tagger._model("en").cache
        documents = [Document(str(number), "g", entry) for number, entry in enumerate(entries)]
        tokens = {
            token
            for document in with_tags(documents, "en", "words", 1, Provenance())
            for token in document.annotated
            if token is not None and token.tag not in ("PUNCT", "PROPN", "NUM", "X")
        }
        self.assertGreater(len(tokens), 1000)
        changed = 0
        for token in tokens:
            lemma, word = token.lemma.lower(), token.form.lower().replace("’", "'")
            if lemma == word or word.startswith(f"{lemma}'"):
                continue
            changed += 1
            known_lemma = any(lemma in english_lemmas(word, tag) for tag in ("NOUN", "VERB", "ADJ", "ADV"))
            self.assertTrue(known_lemma or lemma in known or word in known or "'" in word, token)
        self.assertGreater(changed, 300)
        for language, form, lemma in (
            ("en", "cucumber", "cucumber"),
            ("en", "galumphed", "galumphed"),
            ("nl", "hutten", "hut"),
        ):
            self.assertEqual(tags_of(language, form)[0][1], lemma)
        (long, *_) = tags_of("en", "y" * 300)
        self.assertEqual(long[1:], ("y" * 300, "X"), "what is too long for a word is not guessed at")

    def test_a_wrong_language_and_no_tagger(self):
        provenance = Provenance()
        text = "Der Wächter schloss die Hütte ab und ging am Abend mit dem Schlüssel nach Hause zu seiner Familie."
        list(with_tags([Document("d", "g", text)], "en", "words", 1, provenance))
        self.assertTrue(
            re.search(r"\d+ % of the words are unknown to the tagger: are the texts in English", provenance.notes[1])
        )
        with mock.patch("importlib.util.find_spec", return_value=None), self.assertRaises(DataError) as raised:
            check_tagger()
        self.assertIn("millstone-corpus[tags]", raised.exception.remedy)


if __name__ == "__main__":
    unittest.main()
