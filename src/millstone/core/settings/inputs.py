"""The settings of reading."""

from typing import TYPE_CHECKING, Any

from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.conditions import condition_from
from millstone.core.settings.declare import setting
from millstone.core.settings.field_rules import field_rule_typed, field_rules
from millstone.core.settings.kind import Kind
from millstone.core.settings.kinds import MOST, free_text, names, path, paths, regex, switch

if TYPE_CHECKING:
    from millstone.core.settings.field_rules import FieldRule

UNITS = ("whole", "page", "paragraph", "line", "sentence")
_SIZED = ("parts", "words")


@frozen
class Unit:
    """The unit that counts as one document: a kind, with the text that stands `between`, or a size."""

    kind: str = "whole"
    between: str = ""
    size: int = 0

    def __str__(self) -> str:
        return f"{self.kind}:{self.between or self.size}" if self.between or self.size else self.kind

    @property
    def by_tokens(self) -> bool:
        """Whether it is cut after the text was made into tokens."""
        return self.kind in ("sentence", *_SIZED)


_WHOLE = Unit()


def _read_unit(typed: str) -> Unit:
    kind, _, rest = typed.partition(":")
    if typed in UNITS:
        return Unit(kind)
    if kind == "between" and rest:
        return Unit(kind, between=rest)
    if kind in _SIZED and rest.isdecimal() and len(rest) < 20 and 0 < int(rest) <= MOST:
        return Unit(kind, size=int(rest))
    raise ValueError(f"must be one of {', '.join(UNITS)}, between:TEXT, parts:N, words:N, not {typed!r}")


def _read_delimiter(typed: str) -> str:
    sign = "\t" if typed.strip().lower() in ("tab", "\\t") else typed
    if len(sign) != 1 or sign in "\"'\r\n":
        raise ValueError(f"must be one character, such as ; or |, or tab, not {typed!r}")
    return sign


def _field_rules(given: Any) -> Any:

    return field_rules(given)


def _read_condition(typed: str) -> str:

    condition_from(typed)
    return typed


def _read_field(typed: str) -> str:
    field_rule_typed(typed)
    return typed


@frozen
class DocumentOptions:
    """Which documents there are, and what is known of them."""

    text: str = setting(
        free_text("COLUMN"), "", "the table's column that holds the text: its name, or a letter such as D"
    )
    id: str = setting(free_text("COLUMN"), "", "the column that names the document (default: its row number)")
    group: str = setting(
        free_text("FIELD"),
        "",
        "what makes the groups: a column or other field, folder, file, document, or part (of texts cut by --unit) "
        "(default: NAME of NAME=PATH, else the subfolder, else the file's name)",
    )
    order: tuple[str, ...] = setting(names("A,B,C"), (), "the order of groups in tables and charts")
    metadata: str = setting(
        path("TABLE"), "", "a table joined to the documents by file name, or by the column that --id names"
    )
    path_pattern: str = setting(
        regex("REGEX"), "", "named groups of a regular expression on the path become fields: '(?P<year>[0-9]{4})'"
    )
    field: tuple[str, ...] = setting(
        Kind("'NEW from FIELD: ...'", _read_field, repeatable=True),
        (),
        "make a field of another by rules, the first that fits: 'kind from place: *school* = school, else other'; "
        "may be repeated",
    )
    where: tuple[str, ...] = setting(
        Kind("'FIELD OP VALUE'", _read_condition, repeatable=True),
        (),
        "keep only documents that fit: = != < <= > >= and ~ for a regular expression; may be repeated, all must hold",
    )
    unit: Unit = setting(
        Kind("UNIT", _read_unit),
        _WHOLE,
        "what counts as one document: whole, page, paragraph, line, sentence, between:TEXT, parts:N, words:N",
    )


@frozen
class TableOptions:
    """How a table is read, and its numbers are written."""

    encoding: str = setting(
        free_text("NAME"), "", "the encoding of the files (default: UTF-8, or UTF-16 with its mark)"
    )
    sheet: str = setting(
        free_text("NAME"),
        "",
        "which sheet of a workbook (default: the first with content; of lists and coding sheets all)",
    )
    delimiter: str = setting(
        Kind("CHAR", _read_delimiter, shown=lambda sign: "tab" if sign == "\t" else sign),
        "",
        "the character between the fields of a .csv, or tab (default: detected)",
    )
    decimal_comma: bool = setting(
        switch(), False, "read and write tables with ; between fields and a comma in numbers"
    )


@frozen
class InputOptions(TableOptions, DocumentOptions):
    """Where documents come from."""

    recursive: bool = setting(
        switch(),
        True,
        "read all subfolders of the groups' folders",
        off="do not read subfolders of the groups' folders",
    )
    navigation: bool = setting(
        switch(),
        True,
        "read nav, header, footer and aside of HTML like the rest",
        off="leave out nav, header, footer and aside of HTML",
    )
    xml_element: str = setting(
        free_text("NAME"), "", "the XML element whose text is read (default: body in TEI, else the root)"
    )
    fields: "tuple[FieldRule, ...]" = setting(
        Kind("", str, check=_field_rules), (), "fields made from others by rules, in a study file"
    )

    @property
    def rules_of_fields(self) -> "tuple[FieldRule, ...]":
        """The fields made by rules, of a study file and as typed."""
        return (*self.fields, *map(field_rule_typed, self.field))

    @property
    def groups_are_parts(self) -> bool:
        """Whether the first parts of all texts are a group, the second ones another, and so on."""
        return self.group == "part" and self.unit.kind != "whole"


def _read_size(typed: str) -> tuple[str, int]:
    name, _, number = typed.rpartition("=")
    if not name.strip() or not number.strip().isdecimal():
        raise ValueError(f"must be NAME=N, a group and a whole number, not {typed!r}")
    return name.strip(), int(number)


def _sizes() -> Kind:
    return Kind("NAME=N", _read_size, repeatable=True, split_at=",", shown=lambda size: f"{size[0]}={size[1]}")


@frozen
class CountedOptions:
    """Settings of counting fields or tags instead of words."""

    count_tags: bool = setting(switch(), False, "annotated or tagged texts: count the parts of speech of kept words")
    count_field: str = setting(
        free_text("FIELD"), "", "count the values of a field of the documents instead of words, once per document"
    )


@frozen
class FrequencyListOptions(CountedOptions):
    """Settings of frequency lists as inputs, and of counting fields or tags instead of words."""

    lists: bool = setting(
        switch(),
        False,
        "the inputs are frequency lists, not texts: one per file, or a long table with a group column",
    )
    term: str = setting(free_text("COLUMN"), "", "lists: the column of the terms")
    freq: str = setting(free_text("COLUMN"), "", "lists: the column of the frequencies")
    docs: str = setting(free_text("COLUMN"), "", "lists: the column of the numbers of documents (default: docs)")
    base_size: tuple[tuple[str, int], ...] = setting(
        _sizes(), (), "lists: how many tokens a group's corpus has (default: its companion, else the sum of its list)"
    )
    documents: tuple[tuple[str, int], ...] = setting(_sizes(), (), "lists: how many documents a group's corpus has")


@frozen
class Inputs:
    """The inputs themselves, typed without an option."""

    input: tuple[str, ...] = setting(
        paths("INPUT"),
        (),
        "a folder, a text or a table, here or at an address such as s3://bucket/texts; NAME=PATH to name its group; "
        "or - for standard input",
    )
