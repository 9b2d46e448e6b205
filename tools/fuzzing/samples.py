"""Samples of everything that is read, and ways to spoil them."""

import gzip
import io
import json
import random
import shutil
import zipfile
from pathlib import Path

from tests.cli.corpus_files import write_tables, write_texts

DICTIONARY = """title = "Mountain talk"
[categories]
weather = ["storm*", "snow", "white out", "!snow goose"]
"body/pain" = ["ache*", { entry = "Wet", case = true, weight = 2 }]
[scores]
strain = "{weather} + 2 * {body/pain}"
"""
STUDY = """[study]
title = "Huts"
output = "out"
date = "2026-05-01"
[corpus]
input = ["book.csv"]
text = "entry"
group = "hut"
[corpus.fields.kind]
source = "nights"
rules = [{ match = "1*", value = "one" }]
otherwise = "more"
[prepare]
stop = ["en", "stop.txt"]
[[step]]
command = "freq"
output = "f.csv"
chart = "f.svg"
[[step]]
command = "keyness"
against = "pairs"
output = "k.csv"
[[step]]
command = "categories"
dictionary = ["d.toml"]
output = "c.csv"
"""
LISTS = {
    "stop.txt": "the\n# a comment\nwhite out\n",
    "merge.csv": "term,as\nboots,boot\nsocks,sock\n",
    "lemmas.tsv": "form\tlemma\nboots\tboot\n",
    "phrases.txt": "wet socks\nthe lake\n",
    "list.csv": "term,freq,docs\nthe,12,3\nsnow,5,2\n",
    "meta.csv": "file,season\nbook.csv,winter\n",
    "d.csv": "category,entry,weight\ncold,snow,1\ncold,ice*,2\n",
}
MADE = (
    ("freq", "book.csv", "--text", "entry", "--group", "hut", "-o", "freq.csv"),
    ("keyness", "book.csv", "--text", "entry", "--group", "hut", "-o", "key.csv"),
    ("logodds", "book.csv", "--text", "entry", "--group", "hut", "-o", "odds.csv"),
    ("categories", "book.csv", "--text", "entry", "--group", "hut", "--dictionary", "d.toml", "-o", "cat.csv"),
    ("profile", "book.csv", "--text", "entry", "--group", "hut", "-o", "profile.csv"),
    ("contrast", "book.csv", "--text", "entry", "--group", "hut", "--values", "tokens", "-o", "contrast.csv"),
    ("collocates", "book.csv", "--text", "entry", "--find", "the", "--min-together", "1", "-o", "near.csv"),
    ("dispersion", "book.csv", "--text", "entry", "--group", "hut", "-o", "dispersion.csv"),
    ("wordtree", "book.csv", "--text", "entry", "--find", "the", "-o", "tree.csv"),
    ("network", "book.csv", "--text", "entry", "--unit", "sentence", "-o", "links.csv"),
    (
        *("code", "book.csv", "--text", "entry", "--group", "hut", "--dictionary", "d.toml"),
        *("--unit", "sentence", "--coders", "2", "--overlap", "1", "-o", "sheet.csv"),
    ),
    ("freq", "book.csv", "--text", "entry", "-o", "freq.xlsx"),
    ("freq", "book.csv", "--text", "entry", "-o", "freq.parquet"),
    ("freq", "book.csv", "--text", "entry", "-o", "freq.jsonl"),
)
"""Runs whose tables are samples, too."""

SECRET = "swordfish"
"""What is in files and addresses that are none of the program's business."""
NOT_IN_XML = (
    "\x01",
    "\x0b",
    "\x1f",
    "\x7f",
    "\x85",
    "\ufffe",
    "\uffff",
    "_x0041_",
    "_x000A_",
    "\ufdd0",
    "\U0001ffff",
)
"""Signs that XML, or a workbook, cannot hold as they stand, and some that look like it."""

# words that are something else in many a place
ODD = (
    *("", " ", "0", "-1", "1e999", "nan", "inf", "None", "null", "true", "9" * 30, "1,5", "\u2028", "\x00"),
    *("../up.csv", "/dev/null", "~nosuchuser", "-", "--", "=", "a=b", "a=b=c", "*", "?", "[", "(", "(a", "{", "}"),
    *("\ud800", "\u202eabc", "é" * 300, "a" * 3000, "'", '"', "\\", "$(id)", "`id`", "<script>", "=1+1", "@x", "🏔"),
    *("rest", "pairs", "all", "en", "de", "utf-16", "zlib", "hex", "punycode", "undefined", "tab", "whole"),
    *("parts:0", "%s", "ﬁ", "\x1b[31m"),
)
# names that are code on a page, in a graph, a sheet, a template or a terminal
HOSTILE = (
    *("<script>alert(7)</script>", "\"'><img src=x onerror=alert(7)>", "a&b", "&lt;b&gt;", "]]>", "--><b>", "<!--"),
    *(
        "{{ 7*7 }}",
        "{% raw %}",
        "=1+1",
        "@x",
        "\x1b[31mred",
        "a\nb",
        "\u202ex",
        "%s%n",
        "$(id)",
        "`id`",
        "a\tb",
        "x\x07",
    ),
)


def write(folder: Path) -> None:
    """All samples, in a separate folder."""
    write_tables(folder)
    for ending in write_texts(folder / "texts"):
        source = folder / "texts" / ending / "Ostrel" / f"one.{ending}"
        shutil.copy(source, folder / f"one.{ending}")
    rows = [{"hut": "A", "entry": ["a", {"b": 1}]}, {"hut": None, "entry": "ice"}]
    (folder / "nested.jsonl").write_text("".join(json.dumps(row) + "\n" for row in rows), "utf-8")
    (folder / "rows.json").write_text(json.dumps(rows), "utf-8")
    (folder / "d.toml").write_text(DICTIONARY, "utf-8")
    (folder / "study.toml").write_text(STUDY, "utf-8")
    for name, content in LISTS.items():
        (folder / name).write_text(content, "utf-8")


def spoiled(data: bytes, chance: random.Random) -> bytes:
    """A file with something wrong: bytes changed, cut off, doubled, put in, or inside its archive."""
    if data[:2] == b"PK" and chance.random() < 0.7:
        return _spoiled_archive(data, chance)
    if data[:2] == b"\x1f\x8b" and chance.random() < 0.4:
        return gzip.compress(spoiled(gzip.decompress(data), chance))
    found = bytearray(data)
    for _ in range(chance.choice((1, 1, 1, 2, 4, 20))):
        at, size = chance.randrange(len(found) + 1), chance.choice((1, 1, 2, 8, 64))
        how = chance.randrange(7)
        if how == 0 and found:
            found[at % len(found)] = chance.randrange(256)
        elif how == 1:
            del found[at:]
        elif how == 2:
            del found[at : at + size]
        elif how == 3:
            found[at:at] = found[at : at + size] * chance.choice((1, 3, 50))
        elif how == 4:
            found[at:at] = chance.choice(ODD).encode("utf-8", "surrogatepass")
        elif how == 5:
            found[at:at] = chance.randbytes(size)
        else:
            found[at : at + size] = chance.choice(ODD).encode("utf-8", "surrogatepass")
    return bytes(found)


def _spoiled_archive(data: bytes, chance: random.Random) -> bytes:
    made = io.BytesIO()
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as before, zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as after:
            names = before.namelist()
            chosen = chance.choice(names)
            for name in names:
                content = before.read(name)
                after.writestr(name, spoiled(content, chance) if name == chosen else content)
    except (zipfile.BadZipFile, OSError):
        return data[: len(data) // 2]
    return made.getvalue()
