"""The settings of vary."""

import re
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from millstone.analyses import COMMANDS
from millstone.analyses.base.settings import MOST_DRAWS
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import declared, setting
from millstone.core.settings.kind import Kind
from millstone.core.settings.kinds import choice, integer, output_path, share, switch

VARIED = ("freq", "keyness", "logodds", "contrast", "collocates")
"""The commands that can be carried out under many settings."""
NONE = "none"
"""The value of an option that is left out."""
BETWEEN = " | "
_FORM = re.compile(r"\s*(?:--)?([A-Za-z][A-Za-z_-]*)\s*:\s*(.*\S)\s*", re.DOTALL)


@frozen
class Variation:
    """An option that varies, and its values as they are typed."""

    option: str
    values: tuple[str, ...]

    def __str__(self) -> str:
        return f"{self.option.replace('_', '-')}: {BETWEEN.join(self.values)}"


def variation(typed: str) -> Variation:
    """Read an option and its values as they are typed, such as ``stop: en | none``.

    Parameters
    ----------
    typed : str

    Returns
    -------
    Variation

    Raises
    ------
    ValueError
        For another form, fewer than two values, or one that is there twice.
    """
    found = _FORM.fullmatch(typed)
    if found is None:
        raise ValueError(f"must be OPTION: VALUE | VALUE, such as 'stop: en | none', not {typed!r}")
    # a sign within a value, as in a regular expression, has no blanks around it
    parts = found[2].split(BETWEEN) if BETWEEN in found[2] else found[2].split("|")
    values = [part.strip() for part in parts]
    if len(values) < 2:
        raise ValueError(f"{typed!r} has one value, and nothing varies: type another one after |")
    if "" in values:
        raise ValueError(f"{typed!r} has an empty value: type none where the option is to be left out")
    if twice := next((one for one in values if values.count(one) > 1), ""):
        raise ValueError(f"{typed!r} has the value {twice} twice")
    return Variation(found[1].replace("-", "_"), tuple(values))


def kind_named(name: str) -> Kind | None:
    """The kind of an option of one of the commands that can be varied; None where there is none.

    Parameters
    ----------
    name : str

    Returns
    -------
    Kind or None
    """
    parts = (part for command in VARIED for part in COMMANDS[command].parts())
    return next((declared(part)[name].metadata["kind"] for part in parts if name in declared(part)), None)


@frozen
class _OverKind(Kind):
    """Options with their values; paths among the values are placed as the options themselves would have them."""

    def _placed(self, value: Any, folder: Path) -> Any:
        one = variation(value)
        kind = kind_named(one.option)
        return (
            value if kind is None else str(replace(one, values=tuple(_placed(kind, v, folder) for v in one.values)))
        )


def _placed(kind: Kind, typed: str, folder: Path) -> str:
    """A value with its paths taken from a folder."""
    if typed == NONE:
        return typed
    values = kind.several(typed) if kind.repeatable else (typed,)
    placed = kind.placed(values if kind.repeatable else typed, folder)
    return (kind.split_at or " ").join(map(str, placed)) if kind.repeatable else str(placed)


def _of_table(given: Mapping[str, Any]) -> list[str]:
    """The options of a table in a study file, as they would be typed."""
    found = []
    for name, values in given.items():
        if not isinstance(values, list):
            raise ValueError(f"has {name} with one value: write a list, such as {name} = [2, 5]")
        for value in values:
            if isinstance(value, bool) or not isinstance(value, str | int | float):
                raise ValueError(f"has {name} with {value!r}: write text or numbers, and none to leave it out")
        found.append(f"{name}: {BETWEEN.join(map(str, values))}")
    return found


def _read(typed: str) -> str:
    return str(variation(typed))


@frozen
class VarySettings:
    """Settings of ``vary``, besides those of the command that it varies."""

    of: str = setting(replace(choice(*VARIED), positional=True), "", "the command that is carried out")
    over: tuple[str, ...] = setting(
        _OverKind("'OPTION: VALUE | VALUE'", _read, repeatable=True, of_table=_of_table),
        (),
        "an option and its values, such as 'stop: en | none'; may be repeated: all combinations are made",
    )
    paired: bool = setting(
        switch(), False, "all first values together, then all second values, in place of all combinations"
    )
    most: int = setting(integer("N", 2, most=10_000), 200, "refuse to make more than N combinations")
    level: float = setting(share("X"), 0.05, "a row passes where its adjusted p is below X")
    first: int = setting(
        integer("N", 1),
        50,
        "without tests: whether a row is among the first N of its list; of two settings, how many",
    )
    each: str = setting(output_path("FILE|-"), "", "write every row under every combination; - shows it here")
    permute: int = setting(
        integer("N", most=MOST_DRAWS),
        0,
        "put the sampling units into groups at random N times, the whole grid each time: how often is as much found?",
    )
    seed: int = setting(integer("N"), 1, "the seed of random draws; the same seed gives the same result", rare=True)
