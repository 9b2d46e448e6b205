"""SVG files with text that can be searched and read aloud, and with a description."""

import re
from dataclasses import dataclass
from html import escape

from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.patches import PathPatch

from millstone.core.base.xml_text import xml_text
from millstone.outputs.charts.clouds.outlines import Outline
from millstone.outputs.charts.theme import DPI

FONTS = "'DejaVu Sans', Verdana, 'Noto Sans', Arial, sans-serif"
"""The families that a reader's machine is asked for, one after the other."""
_POINTS = 72
_GID = "word-"
_WORD = re.compile(r'<g id="(word-\d+)">\s*<path [^>]*?(style="[^"]*")[^>]*/>\s*</g>', re.DOTALL)
_FONT = re.compile(r"(font-family: |font: [^;\"']*?)'[^']*'(?:, '[^']*')*")
_ROOT = re.compile(r"<svg ([^>]*)>", re.DOTALL)


@dataclass(frozen=True)
class WordText:
    """A word of a cloud: its size in points, its lower left corner within its panel, and its outline."""

    word: str
    size: float
    corner: tuple[float, float]
    outline: Outline


def as_text(patch: PathPatch, axes: Axes, word: WordText) -> None:
    """Let an outline be written as text where a file has text."""
    figure = axes.figure
    words: list[tuple[Axes, WordText]] = figure.__dict__.setdefault("words_of_clouds", [])
    patch.set_gid(f"{_GID}{len(words)}")
    words.append((axes, word))


def with_words(svg: str, figure: Figure) -> str:
    """A drawing whose words of clouds are text, as long as their outlines whatever the font."""
    words: list[tuple[Axes, WordText]] = figure.__dict__.get("words_of_clouds", [])
    if not words:
        return svg

    def written(found: re.Match[str]) -> str:
        axes, word = words[int(found[1].removeprefix(_GID))]
        return _text(figure, axes, word, found[2])

    return _WORD.sub(written, svg)


def _text(figure: Figure, axes: Axes, word: WordText, style: str) -> str:
    box = axes.get_window_extent()
    left, bottom = (float(side) * _POINTS / DPI for side in (box.x0, box.y0))
    high = float(figure.get_figheight()) * _POINTS
    x, y = left + word.corner[0], high - bottom - word.corner[1]
    outline, size = word.outline, word.size
    if outline.is_turned:
        place, length = (
            f'transform="translate({x + outline.baseline * size:.2f} {y:.2f}) rotate(-90)"',
            outline.height,
        )
    else:
        place, length = f'x="{x:.2f}" y="{y - outline.baseline * size:.2f}"', outline.width
    looks = style.removeprefix('style="').removesuffix('"').strip()
    font = f"font: bold {size:.2f}px {FONTS}"
    return (
        f'<text {place} textLength="{length * size:.2f}" lengthAdjust="spacingAndGlyphs" style="{font}; {looks}">'
        f"{escape(xml_text(word.word))}</text>"
    )


def with_families(svg: str, first: str = "") -> str:
    """A drawing whose text asks for several families, so that it looks alike where the first is missing."""
    families = f"'{first}', {FONTS}" if first else FONTS
    return _FONT.sub(lambda found: f"{found[1]}{families}", svg)


def described(svg: str, title: str, caption: str) -> str:
    """A drawing that says what it is, for those who hear it."""
    said = f'<title id="title">{escape(xml_text(title))}</title><desc id="desc">{escape(xml_text(caption))}</desc>'
    return _ROOT.sub(lambda root: f'<svg role="img" aria-labelledby="title desc" {root[1]}>{said}', svg, count=1)


def described_file(svg: bytes, figure: Figure, title: str, caption: str, has_text: bool, font: str = "") -> bytes:
    """An SVG file with its description, and with text where it is to have text."""
    # names may hold characters that no XML file can have
    drawing = xml_text(svg.decode("utf-8"))
    if has_text:
        drawing = with_families(with_words(drawing, figure), font)
    return described(drawing, title, caption).encode("utf-8")
