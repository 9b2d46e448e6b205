"""Long texts, which are read in chunks, give what short ones give, and fail as they do."""

import gzip
import random
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from millstone.analyses.check import inspector as inspector_module
from millstone.analyses.check.inspector import Inspector
from millstone.core.base.errors import DataError
from millstone.core.corpus.cleaning import Cleaned, clean
from millstone.core.corpus.corpus import Document
from millstone.core.corpus.repeats import Repeats, text_key
from millstone.core.scan.scan import scan
from millstone.core.settings.inputs import InputOptions
from millstone.core.settings.preparation import Preparation
from millstone.texts.inputs import decoding, files
from millstone.texts.inputs.documents.texts import read_plain
from millstone.texts.inputs.files import hashed
from millstone.texts.inputs.provenance import Provenance

TEXT = "Über dem Grat, “Nebel” …\r\n\r\nÀ l’aube 雪。 rock-\n" * 3
CONTENTS = {
    "plain": TEXT.encode(),
    "with a mark": b"\xef\xbb\xbf" + TEXT.encode(),
    "a mark alone": b"\xef\xbb\xbf",
    "of two bytes": "é".encode(),
    "empty": b"",
    "UTF-16 with a mark": TEXT.encode("utf-16"),
    "a wrong byte": TEXT.encode() + b"snow \xe9t\xe9 more snow",
    "cut in a character": TEXT.encode() + "é".encode()[:1],
    "a zero": TEXT.encode() + b"a\0b",
}


class LongTexts(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name, "text.txt")

    def read(self, encoding: str = "") -> tuple[str, Provenance] | tuple[str, str]:
        """The text and what was noted, or the two lines of the error."""
        provenance = Provenance()
        try:
            texts = [
                document.whole().text
                for document in read_plain(self.path, "text", InputOptions(encoding=encoding), provenance)
            ]
        except DataError as error:
            return error.what, error.remedy
        return "".join(texts), provenance

    def test_as_short_ones(self):
        for name, content in CONTENTS.items():
            for encoding in ("", "utf-8", "latin-1"):
                self.path.write_bytes(content)
                short = self.read(encoding)
                for chunk in (3, 7, 1 << 20):
                    with mock.patch.object(files, "LONG", -1), mock.patch.object(decoding, "CHUNK", chunk):
                        self.assertEqual(self.read(encoding), short, (name, encoding, chunk))
                        self.assertEqual(self.read_packed(encoding), short[:1], (name, encoding, chunk, "packed"))
        self.assertIn("is not UTF-8: byte 0xE9 at offset", self._error("a wrong byte"))
        self.assertIn("zero character at offset", self._error("a zero"))

    def read_packed(self, encoding: str) -> tuple[str]:
        """The same text packed: it, or the first line of the error under the name of the other file."""
        plain = self.path
        self.path = plain.with_name("text.txt.gz")
        self.path.write_bytes(gzip.compress(plain.read_bytes()))
        found = self.read(encoding)[0].replace(".txt.gz", ".txt")
        self.path = plain
        return (found,)

    def test_a_text_without_a_space_is_none(self):
        with mock.patch.object(files, "LONG", -1), mock.patch.object(decoding, "LONGEST_PIECE", 1 << 20):
            for content, whole in ((b"a" * (9 << 20), False), ((b"a" * 200_000 + b"\n") * 40, True)):
                self.path.write_bytes(content)
                found = self.read()[0]
                self.assertEqual(found == content.decode(), whole)
                self.assertEqual("without a space or line break" in found, not whole)

    def test_check_sees_in_parts_what_it_sees_in_one(self):
        chance = random.Random(6)
        lines = ("a line", "12 of 30", "http://a.b/c", "&amp; so", "bro-", "ken", "<b>", "Ã¼ber", "", "\f", "head 3")
        for _ in range(60):
            text = "\n".join(chance.choices(lines, k=60)) + "\n"
            data = text.encode()
            seen = []
            for document in (
                Document("x", "g", text),
                Document(
                    "x", "g", "", chunks=lambda data=data: (data[at : at + 37] for at in range(0, len(data), 37))
                ),
            ):
                inspector = Inspector()
                with mock.patch.object(inspector_module, "_PART", 80):
                    list(inspector.watch([document]))
                counted = {what: one.times for what, one in inspector.seen.items() if what != "hyphens"}
                seen.append((counted, None if "\f" in text else dict(inspector._lines)))
            self.assertEqual(seen[0], seen[1])

    def _error(self, name: str) -> str:
        self.path.write_bytes(CONTENTS[name])
        with mock.patch.object(files, "LONG", -1):
            return str(self.read()[0])

    def test_a_change_while_it_is_read_is_noticed(self):
        self.path.write_bytes(CONTENTS["plain"])
        provenance = Provenance()
        with mock.patch.object(files, "LONG", -1), self.assertRaisesRegex(DataError, "was changed while"):
            for document in read_plain(self.path, "text", InputOptions(), provenance):
                document.whole()
                self.path.write_bytes(b"other")

    def test_a_change_before_the_checksum_is_noticed(self):
        self.path.write_bytes(CONTENTS["plain"])
        _, provenance = self.read()
        self.assertEqual(len(hashed(provenance.files[0]).sha256), 64)
        self.path.write_bytes(CONTENTS["plain"] + b" more")
        with self.assertRaisesRegex(DataError, "was changed while it was being read"):
            hashed(provenance.files[0])

    def test_cleaning_and_scanning(self):
        self.path.write_bytes(TEXT.encode())
        preparation = Preparation(mend=("hyphens",), cut=("links",), drop_repeats=True)
        with mock.patch.object(files, "LONG", -1):
            (long,) = read_plain(self.path, "text", InputOptions(), Provenance())
        short = Document("text", "", TEXT)
        for prepared in (preparation, Preparation()):
            found = [
                scan(clean(lambda one=one: iter([one]), prepared, Cleaned()), ordered=True) for one in (long, short)
            ]
            self.assertEqual(found[0].forms, found[1].forms)
            self.assertEqual(found[0].ids.tolist(), found[1].ids.tolist())
            self.assertEqual(found[0].breaks.tolist(), found[1].breaks.tolist())


class Repeated(unittest.TestCase):
    def document(self, text: str, group: str = "g", chunk: int = 0) -> Document:
        data = text.encode()
        chunks = [data[at : at + chunk] for at in range(0, len(data), chunk)] if chunk else []
        return Document("x", group, "" if chunk else text, chunks=(lambda: iter(chunks)) if chunk else None)

    def test_the_key_folds_white_space_however_a_text_comes(self):
        for text in (TEXT, "a", " a  b\u3000c\n", "", " \n ", "a b", "ab"):
            expected = text_key(self.document(text))
            self.assertEqual(
                text_key(self.document(" " + text.replace(" ", "\u2003\t") + "\n")), expected, repr(text)
            )
            for chunk in (1, 2, 5):
                self.assertEqual(text_key(self.document(text, chunk=chunk)), expected, (repr(text), chunk))
        self.assertNotEqual(text_key(self.document("a b")), text_key(self.document("ab")))

    def test_repeats_are_counted_by_group(self):
        documents = [
            self.document("ice and snow", chunk=4),
            self.document("ice and  snow"),
            self.document("fog", "other"),
            self.document("ice and snow", "other", chunk=5),
            self.document("ice  and snow", "other"),
            self.document(" "),
            self.document(" "),
        ]
        repeats = Repeats()
        self.assertEqual(len(list(repeats.watch(documents))), 7)
        self.assertEqual((dict(repeats.in_group), repeats.across), ({"g": 1, "other": 1}, 1))

    def test_a_lone_long_text_is_not_read_again(self):
        read = []
        document = Document("x", "g", "", chunks=lambda: read.append(1) or iter([b"ice"]))
        self.assertEqual(len(list(Repeats().watch([document]))), 1)
        self.assertEqual(read, [])


if __name__ == "__main__":
    unittest.main()
