"""Stop lists, lists of words, phrases and tables of words: millstone's own, and the user's files."""

from collections.abc import Sequence
from pathlib import Path

from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed, nearest, nearest_names, quoted_entry
from millstone.core.settings.inputs import InputOptions
from millstone.core.settings.kinds import looks_like_path
from millstone.core.settings.preparation import Preparation
from millstone.core.terms.word_lists import WordList, WordLists
from millstone.texts.inputs.decoding import decode
from millstone.texts.inputs.files import ending_of, existing, read_bytes
from millstone.texts.inputs.lists.languages import check_code, code_of
from millstone.texts.inputs.lists.own_lists import own_list
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.table import TABLES, open_table

OWN_STOP_LIST = "en"
# the list of words that are typed where a stop list could be
_TYPED = "--stop"


def read_word_lists(preparation: Preparation) -> WordLists:
    """All the lists and tables that a preparation names.

    Raises
    ------
    DataError
    """
    if preparation.stem and preparation.lemmas:
        raise DataError("--stem and --lemmas cannot both change a word", "choose one of them")
    lemmas, stem = [], None
    if preparation.lemmas or preparation.stem:
        # lemmas bring 20 ms of libraries along
        from millstone.texts.inputs.lists.lemmas import lemmas_from, stemmer

        lemmas = [lemmas_from(name, _lemma_table) for name in preparation.lemmas]
        stem = stemmer(preparation.stem) if preparation.stem else None
    return WordLists(
        stop=_stop_lists(preparation.stop),
        only=_words_or_files(preparation.only, "--only"),
        spare=_words_or_files(preparation.spare, "--spare"),
        lemmas=lemmas,
        stem=stem,
        merge=_merges(preparation.merge),
    )


def _stop_lists(values: Sequence[str]) -> list[WordList]:
    """The stop lists in their order; words that were typed themselves are one more, at the end."""
    if not values:
        return []
    known = stop_list_codes()
    own = [value for value in values if not _is_named(value, known)]
    if own:
        # among words, what is too short to be one elsewhere is one as well
        own = [value for value in values if value in own or (value not in known and len(value) < 3)]
    found = [read_stop_list(value) for value in values if value not in own]
    if not own:
        return found
    clashing = [value for value in values if value in known]
    noted = f"--stop {listed(clashing)}: the stop list of a language, not a word" if clashing else ""
    return [*found, WordList(_TYPED, [value.strip() for value in own], note=noted)]


def _is_named(value: str, known: Sequence[str]) -> bool:
    """Whether a value names a stop list, or would: a code, a class of one, a file, or a language by its name."""
    is_code = value in known or len(value) < 3 or ":" in value or own_list(value) is not None
    return is_code or looks_like_path(value) or bool(code_of(value, known))


def stop_list_codes() -> list[str]:
    """The languages that have a stop list."""
    import stop_words

    return sorted({OWN_STOP_LIST, *stop_words.LANGUAGE_MAPPING})


def read_stop_list(name: str) -> WordList:
    """A stop list by its code, a class of one (``en:pronouns``), or a file.

    Raises
    ------
    DataError
        For a list that does not exist, or a file without entries.
    """
    if looks_like_path(name):
        return _word_list(Path(name), "stop list")
    if mine := own_list(name):
        return WordList(name, _word_list(mine, "stop list").entries, note=f"the list {name} is {mine}")
    code, _, wanted = name.partition(":")
    if code != OWN_STOP_LIST:
        return _foreign_stop_list(name)
    import tomllib
    from importlib import resources

    content = resources.files("millstone.data").joinpath(f"stop_{code}.toml").read_text("utf-8")
    classes: dict[str, list[str]] = tomllib.loads(content)
    if wanted and wanted not in classes:
        raise DataError(
            f"--stop: the stop list {code!r} has no class {wanted!r}{nearest(wanted, classes)}",
            f"its classes are {', '.join(classes)}",
        )
    chosen = {wanted: classes[wanted]} if wanted else classes
    entries = {entry: kind for kind, several in chosen.items() for entry in several}
    return WordList(name, list(entries), {} if wanted else entries, shipped=True)


def _foreign_stop_list(name: str) -> WordList:
    import stop_words

    known = stop_list_codes()
    remedy = f"there are {', '.join(known)}, classes such as en:pronouns; for a file of yours type ./{name}"
    check_code(name, known, "--stop", "there is no stop list", remedy)
    return WordList(name, stop_words.get_stop_words(name), shipped=True)


def _words_or_files(values: Sequence[str], option: str) -> WordList | None:
    if not values:
        return None
    entries: list[str] = []
    for value in values:
        path = Path(value) if looks_like_path(value) else own_list(value)
        entries += _word_list(path, "word list").entries if path is not None else [value.strip()]
    return WordList(option, entries)


def _word_list(path: Path, what: str) -> WordList:
    return WordList(path.name, list(dict.fromkeys(entry for entry, _ in read_entries(path, what))))


def read_entries(path: Path, what: str) -> list[tuple[str, int]]:
    """The entries of a list, each with its line, or its row in a table.

    Raises
    ------
    DataError
    """
    existing(path, what)
    if ending_of(path) in TABLES:
        table = open_table(path, InputOptions(), Provenance())
        if "term" not in table.header:
            raise DataError(
                f"{path} has no column 'term' (its columns: {nearest_names('term', table.header)})",
                "give a table that millstone saved, or a text file with one word per line",
            )
        entries = [(cells.get("term", "").strip(), number) for number, cells in table.rows]
    else:
        lines = decode(read_bytes(path), path).splitlines()
        entries = [(line.partition("#")[0].strip(), number) for number, line in enumerate(lines, 1)]
    entries = [(entry, number) for entry, number in entries if entry]
    if not entries:
        raise DataError(f"{path} has no entries", "write one word per line; what follows a # is a comment")
    return entries


def read_phrases(files: Sequence[str], case: str = "lower") -> list[str]:
    """The multiword expressions of some files, one per line.

    Raises
    ------
    DataError
        For a line of a single word; unless `case` is kept, for two that differ in case only.
    """
    found: dict[str, tuple[str, str, int]] = {}
    for name in files:
        for entry, line in read_entries(Path(name), "list of phrases"):
            if len(entry.split()) == 1 and "-" not in entry:
                raise DataError(
                    f"{name}, line {line}: {quoted_entry(entry)} is a single word",
                    "write expressions of several words, one per line",
                )
            before, file, at = found.setdefault(entry.lower() if case == "lower" else entry, (entry, name, line))
            if before != entry:
                raise DataError(
                    f"{name}, line {line}: {quoted_entry(entry)} differs in case only from {quoted_entry(before)} "
                    f"in line {at} of {file}",
                    "remove one of them; phrases are found in any case unless --case keep is typed",
                )
    return [entry for entry, _, _ in found.values()]


def _pairs(path: Path, what: str, first: str, second: str) -> dict[str, tuple[str, int]]:
    """First column -> second column and row, of a table with these two columns, or of two columns in all."""
    table = open_table(existing(path, what), InputOptions(), Provenance())
    rows = [(number, cells.get(first, ""), cells.get(second, "")) for number, cells in table.rows]
    if first not in table.header or second not in table.header:
        raise DataError(
            f"{path} has no columns {first!r} and {second!r} (its columns: {listed(table.header)})",
            f"write {first},{second} into its first row",
        )
    found: dict[str, tuple[str, int]] = {}
    for number, given, becomes in rows:
        key, value = given.strip(), becomes.strip()
        if not key or not value:
            raise DataError(
                f"{path}, row {number}: {first if not key else second} is empty", "fill it in, or remove the row"
            )
        before = found.get(key)
        if before and before[0] != value:
            raise DataError(
                f"{path}: {quoted_entry(key)} becomes {quoted_entry(before[0])} in row {before[1]} and "
                f"{quoted_entry(value)} in row {number}",
                "a word can become one thing only: remove one of the rows",
            )
        found[key] = (value, number)
    return found


def _typed_pairs(typed: str) -> dict[str, tuple[str, int]]:
    """Word -> the name it counts as, and which of the names this is, of ``kin=son,wife;house=hut``."""
    found: dict[str, tuple[str, int]] = {}
    for number, one in enumerate(typed.split(";"), 1):
        name, _, words = (part.strip() for part in one.partition("="))
        own = [word.strip() for word in words.split(",") if word.strip()]
        if not name or not own:
            raise DataError(
                f"--merge: {one.strip()!r} is not NAME=WORD,WORD", "type it as in 'kin=son,wife;house=hut,cabin'"
            )
        for word in own:
            before = found.setdefault(word, (name, number))
            if before[0] != name:
                raise DataError(
                    f"--merge: {quoted_entry(word)} becomes {quoted_entry(before[0])} and {quoted_entry(name)}",
                    "a word can become one thing only: remove one of them",
                )
    return found


def _merges(files: Sequence[str]) -> dict[str, str]:
    found: dict[str, tuple[str, int, str]] = {}
    names: dict[str, tuple[str, int, str]] = {}
    for name in files:
        typed = "=" in name
        pairs = _typed_pairs(name) if typed else _pairs(Path(name), "table of merges", "term", "as")
        for term, (becomes, row) in pairs.items():
            other_name, other_row, file = names.setdefault(becomes.lower(), (becomes, row, name))
            if other_name != becomes:
                raise DataError(
                    f"{name}, row {row}: {quoted_entry(becomes)} differs in case only from "
                    f"{quoted_entry(other_name)} in row {other_row} of {file}",
                    "write the name of a merge in one way, or use two names",
                )
            # words are matched in any case, so that two rows may differ in it alone
            before = found.get(term.lower())
            if before and before[0] != becomes:
                other = f"{quoted_entry(before[0])} in row {before[1]} of {before[2]}"
                raise DataError(
                    f"{name}, row {row}: {quoted_entry(term)} becomes {quoted_entry(becomes)}, but {other}",
                    "a word can become one thing only: remove one of the rows",
                )
            found[term.lower()] = (becomes, row, name)
    return {term: becomes for term, (becomes, _, _) in found.items()}


def _lemma_table(name: str) -> dict[str, str]:
    return {form: lemma for form, (lemma, _) in _pairs(Path(name), "table of lemmas", "form", "lemma").items()}
