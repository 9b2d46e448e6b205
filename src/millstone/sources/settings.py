"""The settings of reading."""

from dataclasses import dataclass

from millstone.core.declare import free_text, names, paths, setting


@dataclass(frozen=True)
class Reading:
    """Where documents come from."""

    text: str = setting(free_text("COLUMN"), "", "the table's column that holds the text")
    id: str = setting(free_text("COLUMN"), "", "the column that names the document (default: its row number)")
    group: str = setting(
        free_text("FIELD"),
        "",
        "what makes the groups: a column of the table, folder or file "
        "(default: NAME of NAME=PATH, else the subfolder, else the file's name)",
    )
    order: tuple[str, ...] = setting(names("A,B,C"), (), "the order of groups in tables and charts")
    encoding: str = setting(
        free_text("NAME"), "", "how the files are encoded (default: UTF-8, or UTF-16 with its mark)"
    )


@dataclass(frozen=True)
class Inputs:
    """The inputs themselves, typed without an option."""

    input: tuple[str, ...] = setting(
        paths("INPUT"),
        (),
        "a folder of .txt, a .txt, .csv or .tsv file, NAME=PATH to name its group, or - for standard input",
    )
