"""Cases: random command lines over all declared options, and commands on spoiled files."""

import json
import random
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

from fuzzing.runner import Case
from fuzzing.samples import HOSTILE, NOT_IN_XML, ODD, SECRET, spoiled
from millstone.cli.manual.commands import CommandPage, Option, manual

_TABLES = ("book.csv", "semicolon.csv", "book.tsv", "book.jsonl", "book.parquet", "book.xlsx", "book.csv.gz")
_TEXTS = ("one.txt", "one.txt.gz", "one.html", "one.xml", "one.conllu", "one.docx", "one.odt", "one.pdf")
_SAVED = ("freq.csv", "key.csv", "odds.csv", "cat.csv", "profile.csv", "contrast.csv", "near.csv", "dispersion.csv")
_SAVED += ("tree.csv", "links.csv", "freq.xlsx", "freq.parquet", "freq.jsonl")
_LISTS = ("stop.txt", "merge.csv", "lemmas.tsv", "phrases.txt", "list.csv", "meta.csv", "d.csv", "d.toml")
_COLUMNS = ("hut", "nights", "entry", "B", "term", "freq", "group", "kind", "file", "folder", "part", "nothing")
_WORDS = ("the", "wet*", "st?ve", "wet socks", "the|a", "a, b", "N=the", "!x", "*", "weather", "body", "strain")
_NUMBERS = ("0", "1", "2", "5", "12", "-3", "1.5", "0.05", "1000", "1..3", "2..", "..4", "4..2", "3,3", "9" * 22)
_OUTPUTS = (
    "o.csv",
    "o.tsv",
    "o.xlsx",
    "o.json",
    "o.jsonl",
    "o.md",
    "o.html",
    "o.parquet",
    "o.mtx",
    "lists/",
    "o.png",
)
_FIGURES = ("c.png", "c.svg", "c.pdf", "c.csv")
_COMMANDS = ("freq", "keyness", "logodds", "profile", "matrix", "check", "categories", "contrast", "concordance")
_COMMANDS += ("collocates", "dispersion", "wordtree", "network", "alike")


_OF_EXPRESSIONS = ("--find", "--match", "--drop", "--where")


def _typed(text: str) -> str:
    """A text as a shell can pass it: without zeros, and of what is not UTF-8 only bytes."""
    return text.replace("\x00", "").replace("\ud800", "\udcff")


class Cases:
    """Makes cases from a seed; each in its own folder, filled from the samples."""

    def __init__(self, samples: Path, work: Path, seed: int) -> None:
        self._samples, self._work = samples, work
        self._chance = random.Random(seed)
        self._pages: list[CommandPage] = [page for page in manual() if page.name not in ("demo", "cache")]
        self._kinds: list[Callable[[Path], tuple[tuple[str, ...], bytes]]] = [
            *(self._command_line,) * 3,
            *(self._spoiled_input,) * 3,
            self._spoiled_study,
            self._spoiled_list,
            self._spoiled_table,
            self._spoiled_sheet,
            self._odd_expression,
            self._hostile_names,
            self._hostile_names,
            self._bundle,
            self._asked,
            self._units_of_little,
            self._odd_characters,
            self._foreign_study,
            self._addresses,
        ]

    def __iter__(self) -> Iterator[Case]:
        number = 0
        while True:
            number += 1
            folder = self._work / f"case{number}"
            shutil.copytree(self._samples, folder, ignore=shutil.ignore_patterns("texts"))
            make = self._chance.choice(self._kinds)
            arguments, given = make(folder)
            yield Case(make.__name__.strip("_"), arguments, folder, given)

    def _pick(self, *of: tuple[str, ...]) -> str:
        return self._chance.choice(self._chance.choice(of))

    def _value(self, option: Option) -> str:
        """A value for an option: mostly one that could be, at times one that never is."""
        if self._chance.random() < 0.12:
            return self._pick(ODD)
        known = {
            "chart": (_FIGURES,),
            **dict.fromkeys(("output", "omnibus", "trend", "words", "by_group", "in_order", "nodes"), (_OUTPUTS,)),
        }
        tests = (
            (option.name in known, known.get(option.name, ())),
            (bool(option.values), (option.values,)),
            (option.takes_column or option.metavar in ("A,B", "FIELD"), (_COLUMNS, _COLUMNS, _WORDS)),
            (option.takes_file, (_LISTS, _LISTS, _TABLES, _SAVED, _WORDS)),
            (any(sign in option.metavar for sign in ("N", "X", "MIN", "L,R")), (_NUMBERS,)),
            (True, (_WORDS, _COLUMNS, _NUMBERS, ODD)),
        )
        return self._pick(*next(of for fits, of in tests if fits))

    def _options(self, page: CommandPage, number: int) -> list[str]:
        found = []
        for option in self._chance.choices([one for one in page.options if one.forms], k=number):
            if option.name in ("help", "help_all", "debug"):
                continue
            form = option.forms[-1]
            found.append(f"{form}={self._value(option)}" if option.metavar else form)
        return [_typed(one) for one in found]

    def _needed(self, command: str) -> list[str]:
        return {
            "categories": ["--dictionary", "d.toml"],
            "contrast": ["--values", "tokens"],
            "concordance": ["--find", "the"],
            "collocates": ["--find", "the"],
            "wordtree": ["--find", "the"],
            "alike": ["--find", "the"],
        }.get(command, [])

    def _command_line(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        page = self._chance.choice(self._pages)
        inputs = [self._pick(_TABLES, _TEXTS, _SAVED, ("study.toml", "nothing.txt", ".", "A=one.txt", "-"))]
        inputs += [self._pick(_TABLES, _TEXTS)] * (self._chance.random() < 0.3)
        base = ["--text", "entry"] if self._chance.random() < 0.7 else []
        needed = self._needed(page.name) if self._chance.random() < 0.8 else []
        return (page.name, *inputs, *base, *needed, *self._options(page, self._chance.randrange(6))), b"ice and snow"

    def _spoil(self, path: Path) -> None:
        path.write_bytes(spoiled(path.read_bytes(), self._chance))

    def _spoiled_input(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        name = self._pick(_TABLES, _TEXTS, ("nested.jsonl", "rows.json"))
        self._spoil(folder / name)
        command = self._chance.choice(_COMMANDS)
        base = ["--text", "entry"] if name in (*_TABLES, "nested.jsonl", "rows.json") else []
        more = ["--group", "hut"] if base and self._chance.random() < 0.6 else []
        return (command, name, *base, *more, *self._needed(command)), b""

    def _spoiled_study(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        self._spoil(folder / "study.toml")
        return self._chance.choice((("run", "study.toml"), ("freq", "--study", "study.toml"))), b""

    def _spoiled_list(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        name, typed = self._chance.choice(
            (
                ("stop.txt", ("freq", "--stop", "stop.txt")),
                ("stop.txt", ("freq", "--only", "./stop.txt")),
                ("merge.csv", ("freq", "--merge", "merge.csv")),
                ("lemmas.tsv", ("freq", "--lemmas", "lemmas.tsv")),
                ("phrases.txt", ("freq", "--phrases", "phrases.txt")),
                ("meta.csv", ("freq", "--metadata", "meta.csv")),
                ("d.toml", ("categories", "--dictionary", "d.toml")),
                ("d.toml", ("contrast", "--dictionary", "d.toml")),
                ("d.toml", ("categories", "--validate", "--dictionary", "d.toml")),
                ("d.csv", ("categories", "--dictionary", "d.csv", "--words", "w.csv")),
                ("d.toml", ("concordance", "--dictionary", "d.toml")),
                ("list.csv", ("logodds", "--prior", "list.csv")),
                ("list.csv", ("keyness", "--background", "list.csv")),
            )
        )
        self._spoil(folder / name)
        return (typed[0], "book.csv", "--text", "entry", "--group", "hut", *typed[1:]), b""

    def _spoiled_sheet(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        """A coding sheet that was filled in, of which the sheet, its companion or the texts changed since."""
        sheet, companion = folder / "sheet.csv", folder / "sheet.csv-metadata.json"
        codes = ("0", "1", "1", "", "1.0", *(("yes",) if self._chance.random() < 0.1 else ()))
        first, *rows = sheet.read_text("utf-8").splitlines()
        filled = [f"{row.rstrip(',')},{self._chance.choice(codes)},{self._chance.choice(codes)}" for row in rows]
        sheet.write_text("\n".join([first, *filled]) + "\n", "utf-8")
        for path in self._chance.choice(((), (sheet,), (companion,), (sheet, companion), (folder / "book.csv",))):
            self._spoil(path)
        more = ["--arbiter", self._pick(("A", "B", "Z"))] * (self._chance.random() < 0.3)
        if self._chance.random() < 0.5:
            more += self._chance.choice(([], ["--cases", "-"], ["--entries", "e.csv"], ["-o", "o.xlsx"], ["--say"]))
            return ("agreement", "sheet.csv", *more), b""
        more += ["--same-rates"] * (self._chance.random() < 0.5)
        typed = ("--text", "entry", "--group", "hut", "--dictionary", "d.toml", "--unit", "sentence")
        return ("contrast", "book.csv", *typed, "--corrected-by", "sheet.csv", *more), b""

    def _spoiled_table(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        name = self._chance.choice(_SAVED)
        companion = folder / f"{name}-metadata.json"
        if companion.exists() and self._chance.random() < 0.5:
            self._spoil(companion)
        else:
            self._spoil(folder / name)
        if companion.exists() and self._chance.random() < 0.2:
            companion.unlink()
        return self._chance.choice(
            (
                ("chart", name),
                ("chart", name, f"--chart-kind={self._pick(('cloud', 'rank', 'intervals', 'places', 'effects'))}"),
                ("concordance", "--from", name, "--row", "1"),
                ("concordance", "--from", name, "--term", "the"),
                ("freq", "--lists", name),
                ("keyness", "--lists", name, "list.csv"),
                ("contrast", "--table", name, "--values", "freq,tokens", "--group", "group"),
                ("freq", "book.csv", "--text", "entry", "--stop", f"./{name}"),
            )
        ), b""

    def _hostile_names(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        """Names of folders, files, words and categories that are code somewhere else: a page, a figure, a graph."""
        corpus = folder / "corpus"
        for _ in range(self._chance.choice((1, 2, 2, 3))):
            text = " ".join(self._chance.choices((*HOSTILE, "ice", "snow", "rope", "The", "stove.", "\n"), k=60))
            place = corpus / self._chance.choice(HOSTILE).replace("/", "\u2215")
            place.mkdir(parents=True, exist_ok=True)
            (place / f"{self._chance.choice(HOSTILE).replace('/', '')}.txt").write_text(text, "utf-8")
        (folder / "h.toml").write_text(f"[categories]\n{json.dumps(self._pick(HOSTILE))} = ['ice', 'sn*']\n", "utf-8")
        command, *more = self._chance.choice(
            (
                ("freq",),
                ("keyness", "--min-freq", "1"),
                ("logodds",),
                ("profile",),
                ("dispersion",),
                ("categories", "--dictionary", "h.toml", "--marked", "m.html"),
                ("categories", "--dictionary", "h.toml", "--scale", "per_million"),
                ("concordance", "--find", "ice"),
                ("collocates", "--find", "snow", "--min-together", "1"),
                ("wordtree", "--find", "rope"),
                ("network", "--unit", "document", "--min-together", "1", "--graph=g.graphml"),
                ("network", "--unit", "document", "--min-together", "1", "--graph=g.gexf"),
                ("network", "--unit", "document", "--min-together", "1", "--nodes", "n.csv"),
                ("alike", "--find", "ice"),
                ("check",),
            )
        )
        more += ["--tokens", "spaces"] if self._chance.random() < 0.5 else []
        if command != "check":
            more += [f"--output={self._pick(_OUTPUTS)}"] if "-o" not in more else []
            more += [f"--chart={self._pick(_FIGURES)}"] if self._chance.random() < 0.5 else []
            more += ["--chart-title", self._pick(HOSTILE)] if self._chance.random() < 0.2 else []
        return (command, "corpus", *more), b""

    def _bundle(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        """A study of odd places, packed."""
        odd = self._pick(
            ("book.csv", "../samples/book.csv", "./book.csv", "/dev/null", "~/book.csv", "b\u0000k.csv"), HOSTILE
        )
        output = self._pick(("out", ".", "..", "../out of it", "a/../b", "/tmp"), HOSTILE)
        name = self._pick(("f.csv", "../f.csv", "book.csv", "d.toml", "study.toml", "a/b.csv"), HOSTILE)
        study = (folder / "study.toml").read_text("utf-8")
        study = study.replace('["book.csv"]', json.dumps([odd])).replace('"out"', json.dumps(output))
        study = study.replace('"f.csv"', json.dumps(name)).replace('"Huts"', json.dumps(self._pick(HOSTILE)))
        # what is written is to stay in the folder of the case
        place = folder / "a" / "study"
        shutil.copytree(folder, place, ignore=shutil.ignore_patterns("a"))
        (place / "study.toml").write_text(study.replace('"/tmp"', '"out"'), "utf-8")
        more = ["--with-inputs"] if self._chance.random() < 0.5 else []
        return (
            "run",
            "a/study/study.toml",
            "--bundle",
            self._pick(("b.zip", "a/study/b.zip", "a/study/out/b.zip")),
            *more,
        ), b""

    def _units_of_little(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        """Texts cut into units of which few or none are long enough."""
        pieces = ("The hut.", "What is a hut?", "ice", "\n\n", "\n", "\f", "Mr. Snow", "3.5", "\u2014", "(end)")
        text = " ".join(self._chance.choices(pieces, k=self._chance.randrange(20)))
        (folder / "short.txt").write_text(text, "utf-8")
        command = self._chance.choice(_COMMANDS)
        kinds = ("sentence", "paragraph", "line", "page", "between:hut")
        more = [f"--unit={self._pick(kinds, ('parts:2', 'parts:9', 'words:1', 'words:3'))}"]
        more += [f"--min-tokens={self._pick(('0', '1', '2', '5', '50'))}"] * (self._chance.random() < 0.8)
        more += ["--group=part"] * (self._chance.random() < 0.2)
        more += ["--punctuation=keep"] * (self._chance.random() < 0.2)
        inputs = [self._pick(("short.txt",), ("short.txt", "one.txt"))]
        inputs += ["a=one.txt"] * (self._chance.random() < 0.4)
        return (command, *inputs, *self._needed(command), *more), b""

    def _odd_characters(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        """Groups, terms and fields that XML cannot hold, in outputs of every kind."""

        def odd() -> str:
            return self._chance.choice(("ice", "snow", "hut")) + self._chance.choice((*NOT_IN_XML, ""))

        groups = [odd() for _ in range(self._chance.choice((1, 2, 3)))]
        rows = [(self._chance.choice(groups), " ".join(odd() for _ in range(12)), odd()) for _ in range(9)]
        content = "".join(json.dumps({"hut": a, "entry": b, "guide": c}) + "\n" for a, b, c in rows)
        (folder / "odd.jsonl").write_text(content, "utf-8")
        command, *more = self._chance.choice(
            (
                ("freq",),
                ("freq", "--ngram", "2"),
                ("keyness", "--min-freq", "1"),
                ("matrix",),
                ("profile",),
                ("logodds",),
                ("concordance", "--find", "ice*"),
                ("wordtree", "--find", "*ice*"),
                *(
                    ("network", "--unit", "document", "--min-together", "1", f"--graph=g.{ending}")
                    for ending in ("graphml", "gexf", "dot")
                ),
            )
        )
        more += ["--tokens", "spaces"] * (self._chance.random() < 0.7)
        more += [f"--output={self._pick(_OUTPUTS)}"]
        more += [f"--chart={self._pick(_FIGURES)}"] * (self._chance.random() < 0.3)
        return (command, "odd.jsonl", "--text", "entry", "--group", "hut", *more), b""

    def _foreign_study(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        """A study that somebody sent, and that names what is none of its business."""
        own, sent = folder / "own", folder / "sent"
        own.mkdir()
        (own / "secret.txt").write_text(f"{SECRET}\n", "utf-8")
        (own / "secret.csv").write_text(f"term,as\n{SECRET},x\n", "utf-8")
        shutil.copytree(folder, sent, ignore=shutil.ignore_patterns("own", "sent"))
        (sent / "link").symlink_to("../own")
        (sent / "linked.txt").symlink_to(self._pick(("../own/secret.txt", "link/secret.txt", "one.txt", "nowhere")))
        place = self._pick(
            ("../own/secret.txt", "../own/secret.csv", "link/secret.txt", "linked.txt", "link", "../own/*.txt"),
            ("x=../own/secret.txt", f"{own}/secret.txt", "../own/../own/secret.csv", "one.txt", "../sent/one.txt"),
        )
        result = self._pick(("../own/f.csv", "link/f.csv", "f.csv", "a/../../own/f.csv", f"{own}/f.csv", "link/"))
        study = (sent / "study.toml").read_text("utf-8")
        for what, becomes in (
            ('["book.csv"]', json.dumps([place])),
            ('"stop.txt"', json.dumps(place)),
            ('["d.toml"]', json.dumps([place])),
            ('"out"', json.dumps(self._pick(("../own", "link", "out")))),
            ('"f.csv"', json.dumps(result)),
            ("[prepare]", f"[prepare]\nmerge = [{json.dumps(place)}]"),
            ("[prepare]", f"[prepare]\nphrases = [{json.dumps(place)}]"),
        ):
            if self._chance.random() < 0.4:
                study = study.replace(what, becomes)
        (sent / "study.toml").write_text(study, "utf-8")
        more = self._pick(("", "", "--dry-run", "--no-report"))
        command = self._pick(("run", "run", "freq --study", "check --study"))
        trust = ["--trust"] * (self._chance.random() < 0.2)
        typed = [*command.split(), "sent/study.toml", *[more] * (command == "run" and more != ""), *trust]
        return tuple(typed), b""

    def _addresses(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        """Addresses with something in them that opens a door, and kinds of address that are not read."""
        kind = self._pick(("s3", "gs", "az", "http", "sftp", "ssh", "file", "memory", "S3", "git", "a::s3", "x+y"))
        sign = self._pick(("", "/", "?", "#", ";", "//", "%2F", "@", ":", "&", "="))
        name = self._pick(("sig", "X-Token", "api_key", "pwd", "auth"))
        address = self._pick(
            (f"{kind}://user:{sign}{SECRET}{sign}@host.invalid/t", f"{kind}://{SECRET}@host.invalid/t.txt"),
            (f"{kind}://host.invalid/t?x=1{self._pick(('&', ';', '#'))}{name}={SECRET}",),
        )
        options = (
            "--study=",
            "--stop=",
            "--output=",
            "--chart=",
            "--metadata=",
            "--lemmas=",
            "--only=a,",
            "--cluster=",
        )
        option = self._pick(("", "x="), options)
        command = self._pick(("freq", "keyness", "check", "profile", "concordance"))
        inputs = ["one.txt"] if option.startswith("--") else []
        return (command, *inputs, f"{option}{address}", *self._needed(command)), b""

    def _asked(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        """What is asked of the program besides its work."""
        odd = _typed(self._pick(ODD, HOSTILE))
        return self._chance.choice(
            (
                ("--completion", self._chance.choice(("bash", "zsh", "fish", odd))),
                ("--columns-of", self._pick(_TABLES, _SAVED, (odd,))),
                ("--cite",),
                ("--version", odd),
                ("cache", odd),
                ("cache", "--limit", odd),
                (odd,),
                (odd, "book.csv"),
                (self._chance.choice(_COMMANDS), odd),
                ("init", odd, "-o", "new.toml"),
                ("init", "book.csv", "-o", odd or "new.toml"),
                ("run", odd),
                ("chart", odd),
                ("freq", "book.csv", "--text", "entry", "--study", odd),
            )
        ), b""

    def _odd_expression(self, folder: Path) -> tuple[tuple[str, ...], bytes]:
        odd = _typed(self._pick(ODD, _WORDS))
        odd += self._pick(("", "", " x", "*", ")", "|"))
        option = self._chance.choice(
            (
                "--find",
                "--match",
                "--drop",
                "--where",
                "--cut=pattern:",
                "--tokens=pattern:",
                "--path-pattern",
                "--sort",
            )
        )
        command = (
            "concordance" if option == "--find" else self._chance.choice(("freq", "keyness", "check", "profile"))
        )
        return (command, "book.csv", "--text", "entry", f"{option}{'' if '=' in option else '='}{odd}"), b""
