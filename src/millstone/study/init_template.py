"""The command init: a first study file for a folder or a table, made by looking at it."""

import os
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import chain, islice
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed
from millstone.core.settings.inputs import InputOptions
from millstone.core.tokenise.words import words
from millstone.outputs.files.toml import toml_comment
from millstone.outputs.files.toml import toml_string as _text
from millstone.texts.inputs.files import ending_of
from millstone.texts.inputs.finding.finding import FoundFile, files_to_read
from millstone.texts.inputs.lists.told_language import told_language
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.reader import Files
from millstone.texts.inputs.tables.table import TABLES, open_table
from millstone.texts.inputs.tables.texts import text_columns

_ROWS = 5000
_DOCUMENTS = 200
_MOST_GROUPS = 12
_ID_NAMES = ("id", "key", "no", "nr", "number", "name", "file", "document")
_MANY = 2000


@dataclass(frozen=True)
class Guess:
    """A guess at what a table or folder holds; empty where nothing is likely."""

    text: str = ""
    id: str = ""
    group: str = ""
    groups: tuple[str, ...] = ()
    others: tuple[str, ...] = ()
    candidates: tuple[str, ...] = ()
    stop: str = ""
    is_large: bool = False


def draft(path: Path, study: Path) -> str:
    """A commented study file for the texts at `path`, to be saved as `study`; it runs as it stands.

    Raises
    ------
    DataError
        When there is nothing to read, or no column looks like text.
    """
    if not path.exists():
        raise DataError(f"there is no file or folder {path}", "name the folder or the table that holds the texts")
    is_table = path.is_file() and ending_of(path) in TABLES
    guess = _of_table(path) if is_table else _of_texts(path)
    inside = Path(os.path.relpath(path.resolve(), study.resolve().parent)).as_posix()
    return "\n".join([*_head(path, study), *_corpus(inside, guess, is_table), *_prepare(guess), *_steps(guess), ""])


def _of_table(path: Path) -> Guess:
    table = open_table(path, InputOptions(), Provenance())
    rows = [cells for _, cells in islice(table.rows, _ROWS)]
    likely = text_columns(table)
    if not likely:
        raise DataError(
            f"{path}: no column looks like running text (its columns: {listed(table.header)})",
            'write the study by hand, with text = "COLUMN" in [corpus]; docs/study-file.md shows how',
        )
    text = max(likely, key=lambda name: sum(len(row.get(name, "")) for row in rows))
    values = {name: [row.get(name, "").strip() for row in rows] for name in table.header if name != text}
    groups = {name: found for name in values if (found := _as_groups(values[name]))}
    group = min(groups, key=lambda name: (_is_number(values[name]), len(groups[name]))) if groups else ""
    ids = [name for name in values if name != group and len(set(values[name])) == len(rows) and all(values[name])]
    named = [name for name in ids if any(name.lower().split("_")[-1] == one for one in _ID_NAMES)]
    chosen = (named or [name for name in ids if max(map(len, values[name]), default=99) <= 20] or [""])[0]
    return Guess(
        text=text,
        id=chosen,
        group=group,
        groups=groups.get(group, ()),
        others=tuple(name for name in table.header if name not in (text, chosen, group)),
        candidates=tuple(name for name in groups if name != group),
        **_of_words(row.get(text, "") for row in rows[:_DOCUMENTS]),
    )


def _as_groups(values: list[str]) -> tuple[str, ...]:
    """The values of a column that could make groups: few, and each of several rows."""
    counted = Counter(value for value in values if value)
    full = sum(counted.values()) == len(values)
    if not full or not 2 <= len(counted) <= _MOST_GROUPS or min(counted.values()) < 2:
        return ()
    return tuple(sorted(counted))


def _is_number(values: list[str]) -> bool:
    return all(value.replace(".", "", 1).isdecimal() for value in values)


def _of_texts(path: Path) -> Guess:
    # all files are listed, and some of each group read: the first group alone may have hundreds
    of_group: dict[str, list[FoundFile]] = {}
    for found in files_to_read([str(path)], InputOptions(), Provenance()):
        of_group.setdefault(found.group, []).append(found)
    files = Files(InputOptions(), Provenance())
    each = -(-_DOCUMENTS // max(len(of_group), 1))
    documents = [
        document
        for some in of_group.values()
        for document in islice(chain.from_iterable(map(files.documents, some)), each)
    ]
    groups = tuple(dict.fromkeys(document.group for document in documents))
    if path.is_dir():
        groups = tuple(sorted(one.name for one in path.iterdir() if one.is_dir() and one.name in groups)) or groups
    return Guess(groups=groups, **_of_words(document.whole().text for document in documents))


def _of_words(texts: Iterator[str]) -> dict[str, Any]:
    """The language whose stop list covers most of the words, if enough of them; whether there are many."""
    pieces = chain.from_iterable(text.split() for text in texts)
    tokens = [token.lower() for piece in islice(pieces, 20_000) for token in words(piece)]
    told = told_language(Counter(tokens), len(tokens))
    return {"stop": told.code if told else "", "is_large": len(tokens) >= _MANY}


def _head(path: Path, study: Path) -> list[str]:
    return [
        "# A study: what is read, how it is cleaned, and what is done with it.",
        toml_comment(
            f"# See what it would do:  millstone run {study.name} --dry-run   "
            f"Carry it out:  millstone run {study.name}"
        ),
        "",
        "[study]",
        f"title = {_text(path.stem.replace('_', ' ') or 'A study')}",
        _line('output = "results"', "the folder for tables and figures"),
        # a folder may hold several studies
        *(
            []
            if study.stem == "study"
            else [_line(f"report = {_text(f'{study.stem}.html')}", "the page with it all")]
        ),
        "",
    ]


def _corpus(inside: str, guess: Guess, is_table: bool) -> list[str]:
    lines = ["[corpus]", f"input = [{_text(inside)}]"]
    if is_table:
        lines.append(f"text = {_text(guess.text)}")
        lines.append(f"id = {_text(guess.id)}" if guess.id else _line('# id = "COLUMN"', "default: the row number"))
        if guess.group:
            lines.append(_line(f"group = {_text(guess.group)}", f"groups: {listed(guess.groups, _MOST_GROUPS)}"))
        else:
            lines.append(_line('# group = "COLUMN"', "no column looked like groups"))
        lines += [_line(f"# group = {_text(name)}", "this column could make groups too") for name in guess.candidates]
        if guess.others:
            others = listed(guess.others, _MOST_GROUPS)
            lines.append(toml_comment(f"# other columns, kept with each document: {others}"))
    else:
        lines.append(toml_comment(f"# groups, by subfolder: {listed(guess.groups, _MOST_GROUPS)}"))
        lines.append(_line('# group = "file"', "or each file a group"))
    if len(guess.groups) > 1:
        first = f"{guess.group or 'group'} = {guess.groups[0]}"
        lines.append(_line(f"# where = [{_text(first)}]", "keep only some documents"))
        lines.append(f"# order = [{listed(map(_text, guess.groups), _MOST_GROUPS)}]")
    return [*lines, ""]


def _prepare(guess: Guess) -> list[str]:
    stop = f"stop = [{_text(guess.stop)}]" if guess.stop else '# stop = ["en"]'
    return [
        "[prepare]",
        _line(stop, "words left out of lists; rates still count them"),
        _line('# spare = ["no", "not", "never"]', "never left out"),
        _line(f"# lemmas = [{_text(guess.stop or 'en')}]", "count walk, walks and walked as one"),
        _line("# drop_repeats = true", "leave out documents that occur twice"),
        '# cut = ["links", "markup"]',
        '# mend = ["entities", "hyphens"]',
        "# min_tokens = 5",
        "",
    ]


def _steps(guess: Guess) -> list[str]:
    lines = ["[[step]]", 'command = "freq"', 'output = "frequency.csv"', ""]
    if len(guess.groups) < 2:
        return [*lines, "# with two groups or more, keyness and logodds say what sets them apart"]
    least = "min_freq = 5" if guess.is_large else "# min_freq = 5"
    for name in ("keyness", "logodds"):
        files = [f'output = "{name}.csv"', f'chart = "{name}.png"']
        lines += ["[[step]]", f'command = "{name}"', least, *files, ""]
    return lines[:-1]


def _line(code: str, comment: str) -> str:
    return f"{code:<41} # {toml_comment(comment)}"
