"""A figure inside a page: its drawing, with a text for those who do not see it."""

import re

from lxml import etree
from markupsafe import Markup, escape

from millstone.outputs.pages.page import visible

_SVG, _LINK = "{http://www.w3.org/2000/svg}", "{http://www.w3.org/1999/xlink}href"
_DECIMALS = re.compile(r"(\.\d)\d+")


def embedded(svg: bytes, number: int, title: str, caption: str, above: float = 1.0) -> Markup:
    """A drawing as a part of a page.

    Parameters
    ----------
    svg : bytes
        As the plotting library writes it.
    number : int
        Of the figure within the page, so that no id is there twice.
    title, caption : str
        What it shows; for readers who hear it, and the caption for all.
    above : float
        The share of its height above its own caption, which the page shows as text instead.
    """
    root = etree.fromstring(svg, etree.XMLParser(resolve_entities=False, no_network=True))
    prefix = f"f{number}-"
    for unwanted in [*root.iter(f"{_SVG}metadata"), *root.iter(f"{_SVG}style"), *root.iter(etree.Comment)]:
        unwanted.getparent().remove(unwanted)
    for drawn in root.xpath("//*[@id='caption']"):
        drawn.getparent().remove(drawn)
    across, down = root.get("viewBox").split()[2:]
    root.set("viewBox", f"0 0 {across} {float(down) * above:.0f}")
    used = {one.get(_LINK, "").lstrip("#") for one in root.iter()} | _referred(root)
    for one in root.iter():
        _tidy(one, prefix, used)
    for name in ("width", "height", "version"):
        root.attrib.pop(name, None)
    root.set("role", "img")
    root.set("aria-labelledby", f"{prefix}title {prefix}text")
    # what the style sheet of the plotting library says of all lines
    root.set("stroke-linejoin", "round")
    etree.cleanup_namespaces(root)
    markup = etree.tostring(root, encoding="unicode")
    opening, _, rest = markup.partition(">")
    said = (
        f'<title id="{prefix}title">{escape(visible(title))}</title>'
        f'<desc id="{prefix}text">{escape(visible(caption))}</desc>'
    )
    return Markup(f"{opening}>{said}{rest}\n<figcaption>{escape(visible(caption))}</figcaption>")


def _referred(root: etree._Element) -> set[str]:
    """The ids that are named as ``url(#id)``."""
    values = (value for one in root.iter() for value in one.attrib.values())
    return {name for value in values for name in re.findall(r"url\(#([^)]+)\)", value)}


def _tidy(one: etree._Element, prefix: str, used: set[str]) -> None:
    """Ids of the page's own; styles as attributes, which no policy of content forbids; tenths of a point."""
    name = one.attrib.pop("id", "")
    if name in used and name:
        one.set("id", prefix + name)
    if link := one.attrib.pop(_LINK, ""):
        one.set("href", f"#{prefix}{link.lstrip('#')}")
    for part in one.attrib.pop("style", "").split(";"):
        key, _, value = part.partition(":")
        if key.strip() and key.strip() != "text-rendering":
            one.set(key.strip(), value.strip())
    for key, value in list(one.attrib.items()):
        if "url(#" in value:
            one.set(key, value.replace("url(#", f"url(#{prefix}"))
    if path := one.get("d"):
        one.set("d", _DECIMALS.sub(r"\1", " ".join(path.split())))
    one.text = one.tail = None if one.tag != f"{_SVG}text" else one.text
