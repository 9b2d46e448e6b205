"""Cleaning of texts before tokens are made: repeats, running lines, what is cut out, what is repaired."""

import html
import re
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from itertools import chain

from millstone.core.base.patterns import pattern
from millstone.core.corpus.corpus import Document
from millstone.core.corpus.repeats import without_repeats
from millstone.core.settings.preparation import MENDS, Preparation

PAGE_END = "\f"
_PAGE_EDGE = 3
_PIECES_KEPT = 1000
_LONGEST_RUNNING = 2000
_LINES = re.compile(r"(\r\n|[\n\r\x0b\x0c\x85\u2028\u2029])")
_DIGITS = re.compile(r"\d+")

_CUTS = {
    "links": re.compile(r"(?:\b[a-z][a-z0-9+.-]{0,40}://|\bwww\.)[^\s<>\"]*[^\s<>\".,;:!?)\]}'…»”’]", re.IGNORECASE),
    "mentions": re.compile(r"(?<![\w.@/])@\w[\w.-]*\w|(?<![\w.@/])@\w"),
    "hashtags": re.compile(r"(?<![\w&/#])#\w+"),
    "markup": re.compile(r"<!--.*?-->|</?[a-zA-Z][^<>]{0,2000}>|<[!?][^<>]{0,2000}>", re.DOTALL),
}
_TAGS = re.compile(r"</?[a-zA-Z][^<>]{0,2000}>|<[!?][^<>]{0,2000}>")
_COMMENT_END = "-->"
_CUT_MARKS = {"links": ("://", "www.", "WWW.", "Www."), "mentions": "@", "hashtags": "#", "markup": "<"}
_ENTITY = re.compile(r"&(?:[A-Za-z][A-Za-z0-9]{1,30}|#\d{1,7}|#[xX][0-9A-Fa-f]{1,6});")
# a soft hyphen ends a line only where a word is broken; a hyphen may be the word's own
_HYPHEN_AT_END = r"[-\u2010\u00ad])[ \t]*+(?:\r\n|[\n\r\x85\u2028]"
_BROKEN = re.compile(rf"(?<!\w)(\w++)({_HYPHEN_AT_END})[ \t]*+(\f?)\s*?(\w+)")
_WITH_HYPHENS = re.compile(r"[\w-]+")
_MAY_BE_BROKEN = re.compile(rf"({_HYPHEN_AT_END})")


@dataclass
class Cleaned:
    """Counts of what cleaning took out or changed.

    `running` maps a line, numbers as #, to how often it was left out; `repeats` and `repeats_across`
    hold names of documents left out, and of those that another group has as well, `near_duplicates` those that
    were nearly the text of another; `pieces` shows, for
    each kind of cutting and repair, what was changed how often, up to a thousand different pieces.
    """

    repeats: list[str] = field(default_factory=list)
    repeats_across: list[str] = field(default_factory=list)
    running: Counter[str] = field(default_factory=Counter)
    cut: Counter[str] = field(default_factory=Counter)
    fixed: Counter[str] = field(default_factory=Counter)
    pieces: defaultdict[str, Counter[str]] = field(default_factory=lambda: defaultdict(Counter))
    near_duplicates: list[str] = field(default_factory=list)

    def add(self, other: "Cleaned") -> None:
        """Add what was changed in a part that comes after."""
        self.repeats += other.repeats
        self.repeats_across += other.repeats_across
        self.near_duplicates += other.near_duplicates
        for mine, theirs in ((self.running, other.running), (self.cut, other.cut), (self.fixed, other.fixed)):
            mine.update(theirs)
        for what, found in other.pieces.items():
            pieces = self.pieces[what]
            for piece, times in found.items():
                if piece in pieces or len(pieces) < _PIECES_KEPT:
                    pieces[piece] += times

    def changed(self, counter: Counter[str], what: str, piece: str) -> None:
        """Take note of a piece that was cut out or repaired."""
        counter[what] += 1
        if piece in self.pieces[what] or len(self.pieces[what]) < _PIECES_KEPT:
            self.pieces[what][piece] += 1


def cleans(preparation: Preparation) -> bool:
    """Whether the preparation changes texts, or leaves some out.

    Parameters
    ----------
    preparation : Preparation

    Returns
    -------
    bool
    """
    return bool(preparation.drop_repeats or preparation.drop_running or preparation.cut or preparation.mend)


def clean(
    documents: Callable[[], Iterable[Document]],
    preparation: Preparation,
    cleaned: Cleaned,
    pieces_of: Callable[[Document], Iterable[Document]] | None = None,
) -> Iterator[Document]:
    """The documents cleaned as the preparation says, one after the other.

    Parameters
    ----------
    documents : callable
        Gives the documents anew each time: lines that recur are counted before any is left out.
    preparation : Preparation
    cleaned : Cleaned
        Receives what was left out.
    pieces_of : callable, optional
        Cuts a cleaned document into those that count; then it is the pieces that may be repeats.

    Yields
    ------
    Document
        In the order of the documents; those that are left out are missing.
    """
    if not (cleans(preparation) or pieces_of):
        yield from documents()
        return
    running = _recurring(map(Document.whole, documents()), preparation) if preparation.drop_running else {}
    stream: Iterable[Document] = map(Document.whole, documents())
    noted = cleaned.repeats.append, cleaned.repeats_across.append
    if preparation.drop_repeats and pieces_of is None:
        stream = without_repeats(stream, *noted)
    stream = (_with_clean_text(document, preparation, running, cleaned) for document in stream)
    if pieces_of is not None:
        stream = chain.from_iterable(map(pieces_of, stream))
        stream = without_repeats(stream, *noted) if preparation.drop_repeats else stream
    yield from stream


def _with_clean_text(
    document: Document, preparation: Preparation, running: dict[str, int], cleaned: Cleaned
) -> Document:
    if document.annotated is not None:
        return document
    text = _without_running(document.text, running, cleaned) if running else document.text
    for what in preparation.cut:
        text = _cut(text, what, cleaned, document.source or document.name)
    if "entities" in preparation.mend:
        text = _changed(_ENTITY.sub, _unescaped, text, cleaned, "entities")
    if "hyphens" in preparation.mend:
        text = mend_hyphens(text, cleaned)
    return document if text is document.text else replace(document, text=text)


def line_key(line: str) -> str:
    """A line with a # for each number and its white space folded."""
    return " ".join(_DIGITS.sub("#", line).split())


def recurring_candidates(text: str) -> Iterator[Counter[str]]:
    """Count the lines that may be running ones, page by page, or in a text without pages.

    Parameters
    ----------
    text : str

    Yields
    ------
    Counter
        Key of a line -> times. A line of over 2,000 characters is a text, and none of them.
    """
    for page in text.split(PAGE_END):
        lines = [key for line in _LINES.split(page)[::2] if len(line) <= _LONGEST_RUNNING and (key := line_key(line))]
        inner = slice(_PAGE_EDGE, max(len(lines) - _PAGE_EDGE, _PAGE_EDGE))
        if PAGE_END in text:
            del lines[inner]
        yield Counter(lines)


def _recurring(documents: Iterable[Document], preparation: Preparation) -> dict[str, int]:
    counted: Counter[str] = Counter()
    for document in documents:
        for keys in recurring_candidates(document.text) if document.annotated is None else ():
            counted.update(keys.keys())
    return {key: number for key, number in counted.items() if number >= preparation.drop_running}


def _without_running(text: str, running: dict[str, int], cleaned: Cleaned) -> str:
    pages = [_page_without(page, running, cleaned, PAGE_END in text) for page in text.split(PAGE_END)]
    return PAGE_END.join(pages)


def _page_without(page: str, running: dict[str, int], cleaned: Cleaned, edges_only: bool) -> str:
    lines = _LINES.split(page)
    keys = [line_key(line) for line in lines[::2]]
    filled = [number for number, key in enumerate(keys) if key]
    edges = {*filled[:_PAGE_EDGE], *filled[-_PAGE_EDGE:]} if edges_only else set(filled)
    kept = []
    for number, key in enumerate(keys):
        if number in edges and key in running:
            cleaned.running[key] += 1
            kept.append("")
        else:
            kept.append(lines[2 * number])
        kept += lines[2 * number + 1 : 2 * number + 2]
    return "".join(kept)


def _cut(text: str, what: str, cleaned: Cleaned, where: str) -> str:
    if what in _CUTS:
        return _changed(_replacing(what), lambda found: " ", text, cleaned, what) if _may_have(text, what) else text
    own = pattern("--cut", what.removeprefix("pattern:"))
    return _changed(lambda change, text: own.replaced(change, text, where), lambda found: " ", text, cleaned, what)


def _found(what: str, text: str) -> Iterator[re.Match[str]]:
    """The places to be cut; beyond the last end of a comment no comment is looked for, which would take for ever."""
    end = text.rfind(_COMMENT_END) + len(_COMMENT_END) if what == "markup" and _COMMENT_END in text else 0
    if what == "markup":
        yield from _CUTS[what].finditer(text, 0, end)
        yield from _TAGS.finditer(text, end)
    else:
        yield from _CUTS[what].finditer(text)


def _replacing(what: str) -> Callable[[Callable[[re.Match[str]], str], str], str]:
    def replaced(change: Callable[[re.Match[str]], str], text: str) -> str:
        parts, before = [], 0
        for found in _found(what, text):
            parts += [text[before : found.start()], change(found)]
            before = found.end()
        return "".join([*parts, text[before:]])

    return replaced


def find_cuts(text: str, what: str) -> int:
    """How many links, mentions, hashtags or pieces of markup a text has."""
    return sum(1 for _ in _found(what, text)) if _may_have(text, what) else 0


def _may_have(text: str, what: str) -> bool:
    """A quick look that spares most texts a slow one."""
    return any(mark in text for mark in _CUT_MARKS[what])


def find_entities(text: str) -> int:
    """How many undecoded entities a text has."""
    return sum(1 for found in _ENTITY.finditer(text) if _unescaped(found) != found[0]) if "&" in text else 0


def find_broken(text: str) -> int:
    """How many words are broken at line ends."""
    return sum(1 for found in _BROKEN.finditer(text) if found[4][0].islower()) if _MAY_BE_BROKEN.search(text) else 0


def _changed(
    replaced: Callable[[Callable[[re.Match[str]], str], str], str],
    change: Callable[[re.Match[str]], str],
    text: str,
    cleaned: Cleaned,
    what: str,
) -> str:
    counter = cleaned.fixed if what in MENDS else cleaned.cut

    def changed(found: re.Match[str]) -> str:
        new = change(found) if found[0] else ""
        if new != found[0]:
            cleaned.changed(counter, what, found[0])
        return new

    return replaced(changed, text)


def _unescaped(found: re.Match[str]) -> str:
    return html.unescape(found[0])


def mend_hyphens(text: str, cleaned: Cleaned) -> str:
    """Join words that are broken at line ends.

    The second half must begin with a small letter. The hyphen stays where the text has the word with it
    elsewhere within a line, and does not have it without. A word that is broken between two pages
    stands on the first of them.

    Parameters
    ----------
    text : str
    cleaned : Cleaned
        Counts what was joined.

    Returns
    -------
    str
    """
    if not _MAY_BE_BROKEN.search(text) or not _BROKEN.search(text):
        return text
    # those that stand alone, hyphens and all
    words = set(_WITH_HYPHENS.findall(text.lower()))

    def joined(found: re.Match[str]) -> str:
        first, hyphen, page_end, second = found.groups()
        if not second[0].islower():
            return found[0]
        whole, with_hyphen = (first + second).lower(), f"{first}-{second}".lower()
        if hyphen != "\u00ad" and whole not in words and with_hyphen in words:
            return f"{first}-{second}{page_end}"
        return first + second + page_end

    return _changed(_BROKEN.sub, joined, text, cleaned, "hyphens")
