"""Scores: what is made of categories by a formula, document by document."""

import ast
import operator
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.base.wording import nearest, nearest_names

_NAME = re.compile(r"\{([^{}]*)\}")
# as deep as sums of so many characters are, they can be read and computed
_LONGEST = 2000
_BETWEEN = re.compile(r"[-+*/().\deE\s]*")
_SIGNS: Mapping[type, Callable[..., np.ndarray]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.USub: operator.neg,
    ast.UAdd: operator.pos,
}


@dataclass(frozen=True)
class Score:
    """A score: its name, its formula as written, the categories it is made of, and where it stands."""

    name: str
    formula: str
    categories: tuple[str, ...]
    tree: ast.expr = field(compare=False, repr=False)
    where: str = field(default="", compare=False)

    def of(self, values: Mapping[str, np.ndarray]) -> np.ndarray:
        """The score from the (documents,) values of its categories; NaN after a division by zero."""
        given = [np.asarray(values[name], dtype=float) for name in self.categories]
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            found = np.broadcast_to(_value(self.tree, given), given[0].shape).copy()
        found[~np.isfinite(found)] = np.nan
        return found


def score_from(name: str, formula: object, known: Sequence[str], place: str) -> Score:
    """Read a formula.

    Parameters
    ----------
    name : str
    formula : object
        Numbers, ``{category}``, ``+ - * /`` and brackets.
    known : sequence of str
        The categories.
    place : str
        Where it stands, for messages.

    Returns
    -------
    Score
        The formula as a function of the counts.

    Raises
    ------
    DataError
        For what is not a formula, a category that does not exist, or none at all.

    Examples
    --------
    >>> score = score_from("strain", "{weather} + 2 * {body/pain}", ["weather", "body/pain"], "huts.toml")
    >>> score.of({"weather": np.array([1.0, 0.0]), "body/pain": np.array([0.5, 2.0])}).tolist()
    [2.0, 4.0]
    """
    here = f"{place}: score {name!r}"
    remedy = 'write numbers, {category}, + - * / and brackets, such as "{weather} + 2 * {fear}"'
    if not isinstance(formula, str):
        raise DataError(f"{here} is {formula!r}, which is not a formula", remedy)
    if len(formula) > _LONGEST:
        raise DataError(f"{here}: its formula has {len(formula):,} characters", f"write at most {_LONGEST:,}")
    if name in known:
        raise DataError(f"{here} has the name of a category", "give it another name")
    names = [" ".join(one.split()) for one in _NAME.findall(formula)]
    for one in names:
        if one not in known:
            raise DataError(
                f"{here}: there is no category {one!r}{nearest(one, known)}", f"they are {nearest_names(one, known)}"
            )
    if not names:
        raise DataError(f"{here}: the formula {formula!r} names no category", remedy)
    categories = tuple(dict.fromkeys(names))
    plain = _NAME.sub(lambda found: f"(c{categories.index(' '.join(found[1].split()))})", formula)
    try:
        if not _BETWEEN.fullmatch(_NAME.sub("", formula)):
            raise ValueError("letters outside the brackets of a category")
        tree = ast.parse(plain.strip(), mode="eval").body
        _check(tree)
    except (SyntaxError, ValueError, RecursionError, MemoryError) as error:
        # the last two mean that brackets or signs are within one another without end
        raise DataError(f"{here}: {formula!r} is not a formula", remedy) from error
    return Score(name, formula, categories, tree, place)


def _check(tree: ast.expr) -> None:
    """Raise ValueError for anything but numbers, categories and the four signs."""
    match tree:
        case ast.BinOp(left, sign, right) if type(sign) in _SIGNS:
            _check(left)
            _check(right)
        case ast.UnaryOp(sign, inner) if type(sign) in _SIGNS:
            _check(inner)
        case ast.Constant(value) if type(value) in (int, float):
            pass
        case ast.Name(name) if re.fullmatch(r"c\d+", name):
            pass
        case _:
            raise ValueError("not a formula")


def _value(tree: ast.expr, given: Sequence[np.ndarray]) -> np.ndarray:
    match tree:
        case ast.BinOp(left, sign, right):
            return _SIGNS[type(sign)](_value(left, given), _value(right, given))
        case ast.UnaryOp(sign, inner):
            return _SIGNS[type(sign)](_value(inner, given))
        case ast.Name(name):
            return given[int(name[1:])]
        case ast.Constant(value):
            return np.asarray(value, dtype=float)
    raise ValueError("not a formula")
