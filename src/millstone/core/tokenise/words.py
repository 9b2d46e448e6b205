"""The token rule ``words`` and the end of a sentence, for one piece of text between white space.

No token spans white space, so a text is cut there first and each *different* piece is
read here only once.
"""

import re
import unicodedata
from collections.abc import Callable, Iterator, Sequence

SENTENCE_END = None
"""Stands between the tokens of a piece where a sentence ends."""

_VARIATION_SELECTORS = range(0xFE00, 0xFE10)
_LIGATURES = range(0xFB00, 0xFB07)
_NORMAL: dict[int, str | None] = {
    0x00AD: None,
    **dict.fromkeys(_VARIATION_SELECTORS),
    **{code: unicodedata.normalize("NFKC", chr(code)) for code in _LIGATURES},
    **dict.fromkeys((0x2019, 0x02BC, 0xFF07), "'"),
    **dict.fromkeys((0x2010, 0x2011), "-"),
}

_CHANGED_LETTERS = frozenset(chr(code) for code in _NORMAL if chr(code).isalpha())


class _CharacterClasses(dict[int, str]):
    """Code point -> one letter: a letter, m mark, 0 digit, h apostrophe or hyphen, s stop, c comma, j joiner,
    a line feed itself."""

    def __missing__(self, code: int) -> str:
        category = unicodedata.category(chr(code))
        found = {"L": "a", "M": "m"}.get(category[0], "0" if category == "Nd" else " ")
        self[code] = found
        return found


_SPECIAL = {ord("'"): "h", ord("-"): "h", ord("."): "s", ord(","): "c", 0x200C: "j", 0x200D: "j", ord("\n"): "\n"}
_CLASSES = _CharacterClasses(_SPECIAL)
_CLASSES_OF_ENTRIES = _CharacterClasses({**_SPECIAL, ord("*"): "a", ord("?"): "a"})

# the stop of an abbreviation: both of the letters beside it are single
_ABBREVIATES = r"(?<=a)(?<![am0]a)s(?=a(?![am0]))"
_TOKEN = re.compile(rf"[a0](?:[am0]|(?<=[am0])h(?=[am0])|(?<=0)[sc](?=0)|{_ABBREVIATES}|(?<=[am0])j+(?=[am0]))*")
# the same rule where there are neither marks nor joiners
_ASCII_ABBREVIATES = r"(?<=[A-Za-z])(?<![A-Za-z0-9][A-Za-z])\.(?=[A-Za-z](?![A-Za-z0-9]))"
_ASCII_TOKEN = re.compile(rf"[A-Za-z0-9]+(?:(?:['-]|(?<=[0-9])[.,](?=[0-9])|{_ASCII_ABBREVIATES})[A-Za-z0-9]+)*")
_ENDS_ANYWHERE = re.compile("[。！？]")
_INITIAL = re.compile(r"[^\W\d_]\.")
ABBREVIATIONS = frozenset(("Mr.", "Mrs.", "Ms.", "Dr.", "Prof.", "St.", "vs.", "cf.", "e.g.", "i.e."))
_BLANK_LINE = re.compile("(?>\r\n|[\n\r\x85\u2028\u2029])[^\\S\n\r\x85\u2028\u2029]*(?=[\n\r\x85\u2028\u2029])")


def class_of(character: str) -> str:
    """One letter for what a normalised character can be in a token, as in `_CharacterClasses`."""
    return _CLASSES[ord(character)]


def fold_case(word: str) -> str:
    """Unicode lower case, in NFC."""
    return unicodedata.normalize("NFC", word.lower())


def normalise(piece: str) -> str:
    """One spelling for each character: no soft hyphens or variation selectors, no ligatures, NFC,
    one apostrophe and one hyphen."""
    if piece.isascii():
        return piece
    return unicodedata.normalize("NFC", piece.translate(_NORMAL))


def words(piece: str) -> list[str]:
    """The tokens of a piece under the rule ``words``, normalised, case kept.

    Examples
    --------
    >>> words("“Don’t"), words("well-kept,"), words("3.5km/h")
    (["Don't"], ['well-kept'], ['3.5km', 'h'])
    >>> words("U.S.,"), words("end.A"), words("J.R.R.Smith")
    (['U.S'], ['end', 'A'], ['J.R.R', 'Smith'])
    """
    return _cut(normalise(piece), _CLASSES)


def entry_words(piece: str) -> list[str]:
    """Tokens of a piece of a dictionary entry, its wildcards ``*`` and ``?`` standing for letters."""
    return _cut(normalise(piece), _CLASSES_OF_ENTRIES)


def _cut(piece: str, classes: _CharacterClasses) -> list[str]:
    if piece.isascii() and classes is _CLASSES:
        return _ASCII_TOKEN.findall(piece)
    return [piece[found.start() : found.end()] for found in _TOKEN.finditer(piece.translate(classes))]


def words_and_ends(piece: str) -> list[str | None]:
    """The tokens of a piece, with SENTENCE_END wherever a sentence ends."""
    if piece.isascii():
        tokens: list[str | None] = [*_ASCII_TOKEN.findall(piece)]
        return [*tokens, SENTENCE_END] if not piece[-1].isalnum() and ends_sentence(piece) else tokens
    return with_ends(normalise(piece), lambda part: _cut(part, _CLASSES))


def are_lone_words(runs: Sequence[str]) -> list[bool]:
    """Which runs beyond ASCII are tokens as they stand; a quick look, which may miss some.

    A run is a stretch of text between characters that no word can span (`runs.find_runs`), so that an
    apostrophe or a hyphen in it stands beside other characters of words.
    """
    joined = "\n".join(runs)
    if _CHANGED_LETTERS.isdisjoint(joined) and unicodedata.is_normalized("NFC", joined):
        return [run.isalpha() or run.replace("-", "").replace("'", "").isalpha() for run in runs]
    return [
        run.isalpha() and _CHANGED_LETTERS.isdisjoint(run) and unicodedata.is_normalized("NFC", run) for run in runs
    ]


def word_spans(piece: str) -> Iterator[tuple[int, int]]:
    """Where the tokens of a normalised piece begin and end."""
    return (found.span() for found in _TOKEN.finditer(piece.translate(_CLASSES)))


def with_ends(piece: str, cut: Callable[[str], list[str]]) -> list[str | None]:
    """The tokens that `cut` makes of a normalised piece, with SENTENCE_END wherever a sentence ends."""
    found = _with_inner_ends(piece, cut)
    return [*found, SENTENCE_END] if ends_with_sentence(piece) else found


def words_of_runs(runs: Sequence[str]) -> list[list[str | None]]:
    """The tokens of each run, which is part of a piece, with SENTENCE_END only within it.

    Runs hold no line feed, so that all of them can be normalised at once.
    """
    normal = normalise("\n".join(runs))
    found: list[list[str | None]] = []
    for run, kinds in zip(normal.split("\n"), normal.translate(_CLASSES).split("\n"), strict=True):
        if _ENDS_ANYWHERE.search(run):
            found.append(_with_inner_ends(run, lambda part: _cut(part, _CLASSES)))
        else:
            found.append([run[place.start() : place.end()] for place in _TOKEN.finditer(kinds)])
    return found if runs else []


def _with_inner_ends(piece: str, cut: Callable[[str], list[str]]) -> list[str | None]:
    found: list[str | None] = []
    for _, part in parts_of(piece):
        found += [*cut(part), SENTENCE_END]
    return found[:-1]


def parts_of(piece: str) -> Iterator[tuple[int, str]]:
    """A normalised piece cut after each sign that ends a sentence anywhere: where each part begins, and the part."""
    start = 0
    for end in _ENDS_ANYWHERE.finditer(piece):
        yield start, piece[start : end.end()]
        start = end.end()
    yield start, piece[start:]


def ends_with_sentence(piece: str) -> bool:
    """Whether a sentence ends with a normalised piece, what follows its last ideographic stop looked at."""
    last = _ENDS_ANYWHERE.split(piece)[-1]
    return bool(last) and ends_sentence(last)


def ends_sentence(piece: str) -> bool:
    """Whether a sentence ends with a piece."""
    start, end = 0, len(piece)
    while end > start and _is_bracket(piece[end - 1], ("Pe", "Pf")):
        end -= 1
    if end == start or piece[end - 1] not in ".!?…":
        return False
    while _is_bracket(piece[start], ("Ps", "Pi")):
        start += 1
    core = piece[start:end]
    if core in ABBREVIATIONS:
        return False
    is_initial = _INITIAL.fullmatch(core) is not None and core[0].isupper() and core[0] != "I"
    return not is_initial


def _is_bracket(character: str, categories: tuple[str, str]) -> bool:
    return character in "'\"" or unicodedata.category(character) in categories


def paragraphs(text: str) -> list[str]:
    """The text cut at lines of nothing but white space, where a sentence ends in any case."""
    return _BLANK_LINE.split(text)
