"""How every page is made: a template, filled in and escaped, with its style and its script inside."""

import base64
import hashlib
from functools import cache
from importlib import resources
from typing import Any

from jinja2 import Environment, PackageLoader, StrictUndefined
from markupsafe import Markup

from millstone.core.base.xml_text import xml_text

# a page may hold even less than XML
_NOT_IN_PAGES = {0x0D: "\u240d", 0x7F: "\u2421"} | dict.fromkeys(range(0x80, 0xA0), "\ufffd")


def visible(text: object) -> str:
    """A text without the characters that a page cannot hold: pictures of control characters in their place."""
    return xml_text(str(text)).translate(_NOT_IN_PAGES)


def _finished(value: object) -> object:
    return value if isinstance(value, Markup) else visible(value)


@cache
def _environment() -> Environment:
    return Environment(
        loader=PackageLoader("millstone.outputs.pages", "templates"),
        autoescape=True,
        undefined=StrictUndefined,
        finalize=_finished,
        trim_blocks=True,
        lstrip_blocks=True,
    )


def _part(name: str) -> str:
    return resources.files("millstone.outputs.pages").joinpath("templates", name).read_text("utf-8")


def _hash(content: str) -> str:
    return base64.b64encode(hashlib.sha256(content.encode("utf-8")).digest()).decode("ascii")


def page(template: str, title: str, script: str = "", style: str = "", tints: str = "", **content: Any) -> bytes:
    """A page in UTF-8: one file, which asks no host for anything.

    Parameters
    ----------
    template : str
        The name of the template of its body.
    title : str
    script : str
        The name of its script; none for a page without.
    style : str
        The name of a style sheet that comes after the common one.
    tints : str
        Rules that come last.
    **content
        What the template is filled with; everything but `Markup` is escaped.
    """
    sheet = _part("style.css") + (_part(style) if style else "") + tints
    program = _part(script) if script else ""
    runs = f"script-src 'sha256-{_hash(program)}'; " if script else ""
    rest = "base-uri 'none'; form-action 'none'"
    return (
        _environment()
        .get_template(template)
        .render(
            title=title,
            policy=f"default-src 'none'; {runs}style-src 'sha256-{_hash(sheet)}'; {rest}",
            style=Markup(sheet),
            script=Markup(program),
            **content,
        )
        .encode("utf-8", "replace")
    )
