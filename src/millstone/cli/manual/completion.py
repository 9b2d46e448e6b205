"""Completion scripts for shells: commands, options, values, files, and the columns of tables that are typed."""

from collections.abc import Sequence

from jinja2 import Environment, PackageLoader, StrictUndefined

from millstone.cli.manual.commands import CommandPage

ASKS = "--columns-of"
"""The call with which a script asks for the columns of the tables among the words of a command."""
_OF_PROGRAM = {
    "--help": "how to use millstone",
    "--version": "the version",
    "--cite": "how to cite millstone",
    "--completion": "a completion script",
}


def script(shell: str, pages: Sequence[CommandPage], shells: Sequence[str]) -> str:
    """The script for a shell.

    Parameters
    ----------
    shell : str
        ``bash``, ``zsh`` or ``fish``.
    pages : sequence of CommandPage
        What the manual says of all commands.
    shells : sequence of str
        All that have a script.
    """
    # a page of the web would be escaped, a script has its own quotation marks
    environment = Environment(
        loader=PackageLoader("millstone.cli.manual", "templates"),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
        keep_trailing_newline=True,
        autoescape=False,
    )
    environment.filters.update(quoted=_quoted, quoted_for_fish=_quoted_for_fish)
    return environment.get_template(shell).render(pages=pages, program=_OF_PROGRAM, shells=shells, asks=ASKS)


def _quoted(text: str) -> str:
    return "'" + text.replace("'", "'\\''") + "'"


def _quoted_for_fish(text: str) -> str:
    return "'" + text.replace("\\", "\\\\").replace("'", "\\'") + "'"
