"""Manual pages, as ``man`` shows them."""

from collections.abc import Sequence

from millstone.cli.manual.commands import CommandPage, Option
from millstone.core.base.version import VERSION

STATUS = (
    ("0", "done"),
    ("1", "the data or the study is at fault"),
    ("2", "the command line is at fault"),
    ("130", "interrupted"),
)
"""Exit status, and what it says."""


def manual_page(page: CommandPage) -> str:
    """The manual page of a command."""
    lines = [_title(f"millstone-{page.name}"), ".SH NAME", f"millstone\\-{page.name} \\- {_escaped(page.question)}"]
    lines += [".SH SYNOPSIS", f".B millstone {page.name}", f"\\fI{_escaped(page.takes)}\\fR [options]"]
    if page.about:
        lines.append(".SH DESCRIPTION")
        for number, paragraph in enumerate(page.about.split("\n\n")):
            lines += [".PP"] * (number > 0) + [_line(paragraph)]
    lines.append(".SH OPTIONS")
    for title, options in page.groups:
        lines.append(f".SS {_escaped(title)}")
        for option in options:
            lines += [".TP", _typed(option), _line(option.meaning)]
    if page.further:
        forms = ", ".join(f"\\fB{_escaped(form)}\\fR" for option in page.further for form in option.forms)
        lines += [".SS Options of the command that it carries out", f"As the command itself has them: {forms}."]
    lines += [".SH EXAMPLES", ".nf", *map(_line, page.examples), ".fi"]
    return "\n".join([*lines, *_end(["millstone(1)"])]) + "\n"


def overview_page(pages: Sequence[CommandPage]) -> str:
    """The manual page of the program."""
    lines = [_title("millstone"), ".SH NAME", "millstone \\- frequency lists, keyness and categories of sub-corpora"]
    lines += [".SH SYNOPSIS", ".B millstone", "\\fICOMMAND INPUT...\\fR [options]", ".SH COMMANDS"]
    for page in pages:
        lines += [".TP", f".B {page.name}", _line(page.question)]
    lines.append(".SH EXIT STATUS")
    for number, meaning in STATUS:
        lines += [".TP", f".B {number}", _line(meaning)]
    return "\n".join([*lines, *_end([f"millstone\\-{page.name}(1)" for page in pages])]) + "\n"


def _title(name: str) -> str:
    return f'.TH {name.upper().replace("-", chr(92) + "-")} 1 "" "millstone {VERSION}" "millstone manual"'


def _end(others: Sequence[str]) -> list[str]:
    return [".SH SEE ALSO", ", ".join(others)]


def _typed(option: Option) -> str:
    if not option.forms:
        return f"\\fI{_escaped(option.metavar)}\\fR"
    forms = ", ".join(f"\\fB{_escaped(form)}\\fR" for form in option.forms)
    return f"{forms} \\fI{_escaped(option.metavar)}\\fR" if option.metavar else forms


def _escaped(text: str) -> str:
    return text.replace("\\", "\\e").replace("-", "\\-")


def _line(text: str) -> str:
    # a line that begins with one of these would be a request
    escaped = _escaped(text)
    return f"\\&{escaped}" if escaped.startswith((".", "'")) else escaped
