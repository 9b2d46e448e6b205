"""Reference pages, in Markdown."""

from collections.abc import Sequence

from millstone.cli.manual.commands import CommandPage, Option
from millstone.cli.manual.roff import STATUS

NOTE = "<!-- made by tools/reference.py from the declarations of the settings -->"


def reference_page(page: CommandPage) -> str:
    """The reference page of a command."""
    lines = [NOTE, f"# millstone {page.name}", "", _sentence(page.question), ""]
    lines += ["```", f"millstone {page.name} {page.takes} [options]", "```", ""]
    lines += [page.about, ""] if page.about else []
    for title, options in page.groups:
        lines += [f"## {title[:1].upper()}{title[1:]}", ""]
        for option in options:
            lines.append(f"- {_typed(option)}: {escaped(option.meaning)}")
        lines.append("")
    if page.further:
        forms = ", ".join(f"`{form}`" for option in page.further for form in option.forms)
        lines += [
            "## Options of the command that it carries out",
            "",
            f"As the command itself has them: {forms}.",
            "",
        ]
    lines += ["## Examples", "", "```sh", *page.examples, "```", ""]
    if page.name != "demo":
        lines += ["They run as they stand in the folder that `millstone demo` makes.", ""]
    return "\n".join(lines)


def overview(pages: Sequence[CommandPage]) -> str:
    """The page that lists the commands."""
    lines = [
        NOTE,
        "# Reference",
        "",
        "Every command with all of its options; the same as `millstone COMMAND --help-all`.",
        "",
    ]
    lines += ["| command | what it answers |", "|---|---|"]
    lines += [f"| [{page.name}]({page.name}.md) | {page.question} |" for page in pages]
    lines += [
        "",
        "The columns of all tables, and the measures with their formulas: [tables and measures](tables.md).",
        "",
        "A key of a study file is the option without its dashes, `_` for `-`: `--min-freq` is `min_freq`.",
        "",
    ]
    lines += ["| exit status | |", "|---|---|", *(f"| {number} | {meaning} |" for number, meaning in STATUS), ""]
    return "\n".join(lines)


def _sentence(text: str) -> str:
    return f"{text[:1].upper()}{text[1:]}{'' if text.endswith('?') else '.'}"


def _typed(option: Option) -> str:
    forms = ", ".join(f"`{form}`" for form in option.forms)
    return " ".join(filter(None, (forms, f"`{option.metavar}`" if option.metavar else "")))


def escaped(text: str) -> str:
    """Text in which no sign means anything to Markdown."""
    for sign in ("\\", "*", "_", "<", "|"):
        text = text.replace(sign, f"\\{sign}")
    return text
