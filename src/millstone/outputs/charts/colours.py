"""The colours and marks of groups, and those that a user names."""

from collections.abc import Iterator, Sequence
from itertools import combinations

import matplotlib as mpl
import numpy as np
from matplotlib.colors import ListedColormap, is_color_like, to_hex, to_rgb

from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed, numbered
from millstone.core.corpus.corpus import GroupSize
from millstone.outputs.charts.colour_maps import MAPS

SOFT = "#5f6a72"

_COLOURS = ("#17567a", "#d0612a", "#e2b13c", "#5fa8a0", "#7c2f3a", "#c08fc4", "#8db4d9", "#3c4146")
_MARKS = "osD^vPXh"
_READABLE = 4.5
_ALIKE = 0.08
# a map of no more colours is one for kinds
_OF_KINDS = 20
_FROM, _TO = 0.05, 0.85


def mark_of(number: int) -> str:
    """The mark with a number, from 0."""
    # where the colours begin anew the marks are shifted, so that no two of 64 look alike
    return _MARKS[(number + number // len(_COLOURS)) % len(_MARKS)]


def as_text(colour: str) -> str:
    """A colour, darkened where it would be hard to read as text on white."""
    red, green, blue = to_rgb(colour)
    while contrast_on_white((red, green, blue)) < _READABLE:
        red, green, blue = red * 0.95, green * 0.95, blue * 0.95
    return to_hex((red, green, blue))


def _linear(colour: Sequence[float]) -> np.ndarray:
    """The light of a colour of sRGB, (3,), each from 0 to 1."""
    parts = np.asarray(colour, dtype=float)
    return np.where(parts <= 0.04045, parts / 12.92, ((parts + 0.055) / 1.055) ** 2.4)


def contrast_on_white(colour: Sequence[float]) -> float:
    """The contrast of a colour and white, from 1 to 21 (W3C, Web Content Accessibility Guidelines 2.1)."""
    return 1.05 / (float(_linear(colour) @ (0.2126, 0.7152, 0.0722)) + 0.05)


def difference(one: str, other: str) -> float:
    """How far apart two colours are to the eye: their distance in Oklab (Ottosson 2020), 1 for black and white."""
    to_cones = np.array(
        [
            [0.4122214708, 0.5363325363, 0.0514459929],
            [0.2119034982, 0.6806995451, 0.1073969566],
            [0.0883024619, 0.2817188376, 0.6299787005],
        ]
    )
    to_lab = np.array(
        [
            [0.2104542553, 0.7936177850, -0.0040720468],
            [1.9779984951, -2.4285922050, 0.4505937099],
            [0.0259040371, 0.7827717662, -0.8086757660],
        ]
    )
    first, second = (to_lab @ np.cbrt(to_cones @ _linear(to_rgb(colour))) for colour in (one, other))
    return float(np.linalg.norm(first - second))


def shades(colours: Sequence[str], number: int) -> list[str]:
    """So many shades of a colour map, the strongest first, each readable as text on white."""
    return [as_text(one) for one in _of_map(colours[0], number)]


def _of_map(name: str, number: int) -> list[str]:
    """So many colours of a map: of one for kinds its colours in order, of others evenly chosen."""
    colours = mpl.colormaps[name]
    if isinstance(colours, ListedColormap) and colours.N <= _OF_KINDS:
        return [to_hex(colours(at % colours.N)) for at in range(max(number, 1))]
    return [to_hex(one) for one in colours(np.linspace(_FROM, _TO, max(number, 1)))]


def is_map(colours: Sequence[str]) -> bool:
    """Whether the colours are those of one colour map."""
    return len(colours) == 1 and _is_map(colours[0])


def _is_map(name: str) -> bool:
    # a few maps are called like colours
    return name in MAPS or (name in mpl.colormaps and not is_color_like(name))


def named(colours: Sequence[str], number: int) -> list[str]:
    """The colours of so many groups.

    Parameters
    ----------
    colours : sequence of str
        As they were named: a colour per group, or a colour map; none for our own.

    Raises
    ------
    DataError
        Where there are fewer colours than groups.
    """
    if not colours:
        return [_COLOURS[one % len(_COLOURS)] for one in range(number)]
    if is_map(colours):
        return _of_map(colours[0], number)
    if len(colours) < number:
        raise DataError(
            f"--chart-colors: {numbered(len(colours), 'colour')} for {numbered(number, 'group')}",
            "name one per group, in their order, or a colour map such as viridis",
        )
    return [to_hex(one) for one in colours]


def notes_on(colours: Sequence[str], groups: Sequence[str]) -> Iterator[str]:
    """Notes on colours that a reader of the figure might not tell apart or see."""
    if not colours or is_map(colours):
        return
    of_group = dict(zip(groups, colours, strict=False))
    alike = [f"{a} and {b}" for a, b in combinations(dict.fromkeys(colours), 2) if difference(a, b) < _ALIKE]
    twice = [name for name, colour in of_group.items() if list(of_group.values()).count(colour) > 1]
    if alike:
        yield f"--chart-colors: {listed(alike)} are hard to distinguish"
    if twice:
        yield f"--chart-colors: {listed(twice)} have the same colour"
    pale = [one for one in dict.fromkeys(colours) if contrast_on_white(to_rgb(one)) < _READABLE]
    if pale:
        darker = listed(f"{one} as {as_text(one)}" for one in pale)
        yield f"--chart-colors: text in these colours would be hard to read on white and is darker: {darker}"


def is_known(name: str) -> bool:
    """Whether a word names a colour, or a colour map."""
    return _is_map(name) or bool(is_color_like(name))


class GroupLook:
    """The colour and the mark of each group: the same in every figure of a corpus."""

    def __init__(self, groups: Sequence[GroupSize], colours: Sequence[str] = ()) -> None:
        self._number = {size.name: number for number, size in enumerate(groups)}
        self._named = colours
        self._colours = named(colours, len(groups))

    def colour(self, group: str) -> str:
        """A colour; grey for what is not a group, such as rest."""
        return self._colours[self._number[group]] if group in self._number else SOFT

    def text_colour(self, group: str) -> str:
        """The group's colour, darkened where it would be hard to read as text on white."""
        return as_text(self.colour(group))

    def numbered(self, number: int) -> str:
        """The colour with a number, from 0, of what is not a group."""
        if not self._named or is_map(self._named):
            return named(self._named, len(_COLOURS))[number % len(_COLOURS)]
        return named(self._named, 0)[number % len(self._named)]

    def text_shades(self, group: str, number: int) -> list[str]:
        """So many colours for the words of a group: shades of a colour map, or the colour of the group."""
        return shades(self._named, number) if is_map(self._named) else [self.text_colour(group)] * number

    def mark(self, group: str) -> str:
        """A mark that distinguishes groups without colour."""
        return mark_of(self._number.get(group, 0))
