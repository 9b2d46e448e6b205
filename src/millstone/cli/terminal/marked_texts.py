"""Marked texts on a terminal."""

from collections.abc import Iterator

from rich.console import Console
from rich.text import Text

from millstone.cli.terminal.sanitise import visible_marked
from millstone.core.base.wording import numbered
from millstone.core.dictionary.marked_text import MarkedTexts, letters, places_in

_COLOURS = ("blue", "red", "green", "magenta", "cyan", "yellow")


def show_marked(marked: MarkedTexts) -> None:
    """The texts one after the other, each counted word underlined and followed by the letters of its categories."""
    console, marked = Console(highlight=False), visible_marked(marked)
    texts, names = marked.texts, marked.categories
    mark = letters(names)
    colour = {name: _COLOURS[at % len(_COLOURS)] for at, name in enumerate(names)}
    totals = [sum(column) for column in zip(*(text.places for text in texts), strict=True)]
    legend = Text()
    for name, total in zip(names, totals, strict=True):
        legend.append(f"[{mark[name]}] ", style=colour[name]).append(f"{name} {total:,}   ")
    for text in texts:
        console.print(Text(f"{text.name} ({text.group}), {numbered(text.tokens, 'token')}", style="bold"))
        shown = Text()
        for piece, categories in text.pieces:
            if categories:
                shown.append(piece, style=f"underline {colour[categories[0]]}")
                shown.append(f"[{' '.join(mark[name] for name in categories)}]", style=colour[categories[0]])
            else:
                shown.append(piece)
        console.print(shown)
        console.print()
    console.print(legend)


def as_plain(marked: MarkedTexts) -> Iterator[str]:
    """The texts as plain lines: a counted word is followed by the letters of its categories in brackets."""
    texts, names = marked.texts, marked.categories
    mark = letters(names)
    for text in texts:
        yield f"== {text.name} ({text.group}), {numbered(text.tokens, 'token')}, {places_in(text)}"
        yield "".join(
            f"{piece}[{' '.join(mark[name] for name in categories)}]" if categories else piece
            for piece, categories in text.pieces
        ).strip()
        yield ""
    totals = zip(*(text.places for text in texts), strict=True)
    yield "; ".join(f"[{mark[name]}] {name} {sum(column):,}" for name, column in zip(names, totals, strict=True))
