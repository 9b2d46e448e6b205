"""Lines of a concordance on the screen: what was found stands in the middle, the context is cut at its outer ends."""

import unicodedata
from collections.abc import Sequence

from rich.cells import cell_len
from rich.console import Console
from rich.text import Text

from millstone.core.base.wording import numbered
from millstone.core.matches.contexts import beside, joins_without_space
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table

_GAP = 2
_LEAST_CONTEXT = 12
_MORE = "…"
_FIRST_STRONG, _END_OF_IT = "\u2068", "\u2069"


def show_lines(result: Result, limit: int, console: Console) -> None:
    """Print the first `limit` lines of a result, node by node where it has several."""
    table = result.table
    for (name,), rows in table.by(["node"]) if "node" in table else [(("",), table)]:
        if name:
            console.print(Text(f"{name}: {numbered(len(rows), 'line')}", style="bold"))
        _show(rows.first(limit), console)
        more = len(rows) - limit
        if more > 0:
            saving = f"-o FILE.csv{' without --top' if 'top' in result.settings else ''}"
            console.print(f"  ... {numbered(more, 'more line')}; --top N shows N lines, {saving} saves all")
        console.print()


def _show(rows: Table, console: Console) -> None:
    numbers = [f"{number:,}" for number in rows["line"]]
    width = console.width - max(map(len, numbers)) - _GAP
    names = short_names(list(map(str, rows["document"])), max(console.width // 6, 6))
    groups = list(map(str, rows["group"]))
    beside = [names]
    if len(set(groups)) > 1 and groups != list(map(str, rows["document"])):
        beside.append(short_names(groups, max(console.width // 10, 6)))
    # the names go where the context would be too short
    while beside:
        taken = sum(max(map(cell_len, one)) + _GAP for one in beside)
        if width - taken >= 3 * _LEAST_CONTEXT:
            width -= taken
            break
        beside.pop()
    found = list(map(str, rows["found"]))
    middle = min(max(map(cell_len, found)), width // 3)
    left = (width - middle - 2) // 2
    right = width - middle - 2 - left
    for place, number in enumerate(numbers):
        line = Text(number.rjust(max(map(len, numbers))), style="dim")
        for one in beside:
            line.append(" " * _GAP + padded(one[place], max(map(cell_len, one))), style="dim")
        before, after = str(rows["left"][place]), str(rows["right"][place])
        here = first_cells(found[place], middle)
        line.append(" " * _GAP, style="not dim")
        line.append_text(_before(before, left, _of_collocate(rows, place, before, -1)))
        line.append(" " if not joins_without_space(before, opening=True) else "", style="not dim")
        line.append(isolated(here), style="bold underline not dim")
        space = "" if joins_without_space(after, opening=False) else " "
        line.append(space, style="not dim")
        line.append_text(_after(after, right + 1 - len(space), _of_collocate(rows, place, after, 1)))
        console.print(line, no_wrap=True, overflow="crop")


def _of_collocate(rows: Table, place: int, text: str, side: int) -> tuple[int, int] | None:
    """Where the collocate of a line is in its context on one side."""
    if "collocate" not in rows or "distance" not in rows:
        return None
    distance = int(rows["distance"][place])
    return beside(text, str(rows["collocate"][place]), distance) if distance * side > 0 else None


def _before(text: str, width: int, marked: tuple[int, int] | None) -> Text:
    found = Text(_aligned(last_cells(text, width), width), style="not dim")
    if marked is not None:
        # counted from the end, since it is the beginning that is cut off
        end = len(found) - (isolated(text) != text)
        first, after = (end - (len(text) - one) for one in marked)
        if first >= 0:
            found.stylize("bold", first, after)
    return found


def _after(text: str, width: int, marked: tuple[int, int] | None) -> Text:
    cut = first_cells(text, width)
    found = Text(isolated(cut), style="not dim")
    if marked is not None and marked[1] <= len(cut.removesuffix(_MORE)):
        begin = int(isolated(cut) != cut)
        found.stylize("bold", begin + marked[0], begin + marked[1])
    return found


def _aligned(text: str, width: int) -> str:
    opening = joins_without_space(text, opening=True)
    return " " * (width + opening - cell_len(text)) + isolated(text)


def isolated(text: str) -> str:
    """A text that keeps its own direction of reading within the line."""
    if any(unicodedata.bidirectional(sign) in ("R", "AL", "AN") for sign in text):
        return f"{_FIRST_STRONG}{text}{_END_OF_IT}"
    return text


def first_cells(text: str, width: int) -> str:
    """As much of the beginning of a text as fits into so many cells of the screen, with … where some is left out."""
    if cell_len(text) <= width:
        return text
    kept, room = "", width - 1
    for sign in text:
        if cell_len(kept + sign) > room:
            break
        kept += sign
    return kept + _MORE if width > 0 else ""


def last_cells(text: str, width: int) -> str:
    """As much of the end of a text as fits; a combining sign never stands without its letter."""
    if cell_len(text) <= width:
        return text
    at = len(text)
    while at and cell_len(text[at - 1 :]) <= width - 1:
        at -= 1
    while at < len(text) and unicodedata.combining(text[at]):
        at += 1
    return _MORE + text[at:] if width > 0 else ""


def padded(text: str, width: int) -> str:
    """A text with blanks after it, to so many cells."""
    return text + " " * max(width - cell_len(text), 0)


def short_names(names: Sequence[str], width: int) -> list[str]:
    """Names cut in the middle to so many cells, or as many more as it takes that no two different ones look alike."""
    different = list(dict.fromkeys(names))
    longest = max(map(cell_len, different))
    while width < longest:
        short = {name: _cut(name, width) for name in different}
        if len(set(short.values())) == len(different):
            return [short[name] for name in names]
        width += 1
    return list(names)


def _cut(name: str, width: int) -> str:
    if cell_len(name) <= width:
        return name
    head = (width - 1) // 2
    begin, end = first_cells(name, head + 1), last_cells(name, width - head)
    return f"{begin.removesuffix(_MORE)}{_MORE}{end.removeprefix(_MORE)}"
