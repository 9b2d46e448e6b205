"""Names of groups: those with a meaning of their own, and those that look like two spellings of one name."""

import re
import unicodedata
from collections.abc import Callable, Sequence

from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import numbered
from millstone.core.corpus.corpus import GroupSize

REST, PAIRS = "rest", "pairs"
"""All other groups together as the other side of a comparison, and a comparison of each pair."""
_UNSEEN = re.compile("[\u200b\u200c\u200d\u2060\ufeff\u00ad]")


@frozen
class Alike:
    """Two or more groups whose names differ in something that is hardly seen, and the rule that would join them."""

    names: tuple[str, ...]
    in_what: str
    remedy: str


def _white(name: str) -> str:
    return " ".join(_UNSEEN.sub("", name).split())


def _form(name: str) -> str:
    return unicodedata.normalize("NFKC", name)


_FOLDS: tuple[tuple[str, Callable[[str], str]], ...] = (
    ("white space", _white),
    ("the way accents are encoded", _form),
    ("upper and lower case", str.casefold),
    ("case, white space or encoding", lambda name: _white(_form(name)).casefold()),
)


def groups_alike(groups: Sequence[str]) -> list[Alike]:
    """The groups whose names differ only in case, white space or normalisation form, each set of names once.

    Parameters
    ----------
    groups : sequence of str
        The names as they are.

    Returns
    -------
    list of Alike

    Examples
    --------
    >>> [(alike.names, alike.in_what) for alike in groups_alike(["Ostrel", "ostrel", "Haskgate"])]
    [(('Ostrel', 'ostrel'), 'upper and lower case')]
    """
    found: list[Alike] = []
    noted: set[str] = set()
    for in_what, fold in _FOLDS:
        same: dict[str, list[str]] = {}
        for group in groups:
            same.setdefault(fold(group), []).append(group)
        for names in same.values():
            if len(names) > 1 and not noted.issuperset(names):
                noted.update(names)
                found.append(Alike(tuple(names), in_what, _remedy(names)))
    return found


def _remedy(names: Sequence[str]) -> str:
    """A rule of a study file that joins them; matching is case-blind."""
    value = _escaped(_white(names[0]))
    globs = dict.fromkeys(_glob(name.casefold()) for name in names)
    rules = ", ".join(f'{{ match = "{glob}", value = "{value}" }}' for glob in globs)
    return f"in the study file, rules = [{rules}]; or write the names alike"


def _glob(name: str) -> str:
    plain = re.sub(r"[][*?]", "?", name.strip())
    return _escaped(_UNSEEN.sub("?", plain))


def _escaped(name: str) -> str:
    return name.replace("\\", "\\\\").replace('"', '\\"')


def check_group_names(sizes: tuple[GroupSize, ...], words_needed: bool = True) -> None:
    """Raise DataError for a group that cannot be compared: an empty or reserved name, or no tokens.

    Parameters
    ----------
    sizes : tuple of GroupSize
        The groups and their sizes.
    words_needed : bool, optional
        A group without word tokens is an error.

    Raises
    ------
    DataError
        When a name, or a file, does not hold what is needed.
    """
    for size in sizes:
        if size.name in ("", REST, PAIRS):
            raise DataError(
                f"a group is named {size.name!r}, which is " + ("empty" if not size.name else "a word of --against"),
                "give the group another name, with NAME=PATH or in the table's group column",
            )
        if words_needed and size.tokens == 0:
            raise DataError(
                f"the group {size.name!r} has no tokens in its {numbered(size.documents, 'document')}",
                "leave the group out, or check the text column, --min-tokens, --around and the input files",
            )
