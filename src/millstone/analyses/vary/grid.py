"""The combinations of settings that are carried out, each as a step of its own."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import product
from math import prod
from typing import Any

from millstone.analyses.base.analysis import make_step
from millstone.analyses.base.step import Step
from millstone.analyses.vary.settings import NONE, Variation, VarySettings, kind_named, variation
from millstone.core.base.errors import MillstoneError, UsageError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import listed, nearest
from millstone.core.settings.declare import declared, option
from millstone.core.settings.inputs import InputOptions
from millstone.core.settings.kind import Kind
from millstone.core.settings.preparation import Preparation

_OF_INPUT = ("unit", "where", "navigation")
"""The settings of reading that may vary; groups stay, or there would be other comparisons."""
_ADDED = ("where",)
"""Settings to which a value is added, where others are replaced."""
_SHOWN = 12


@frozen
class Combination:
    """One combination of settings.

    Attributes
    ----------
    number : int
        1 for the first.
    values : mapping
        Option -> its value as typed, in the order of the options.
    step : Step
        What is carried out.
    """

    number: int
    values: Mapping[str, str]
    step: Step[Any]

    def __str__(self) -> str:
        return ", ".join(f"{name.replace('_', '-')} {value}" for name, value in self.values.items())


def variations(step: Step[Any]) -> list[Variation]:
    """The options of a step that vary.

    Parameters
    ----------
    step : Step

    Returns
    -------
    list of Variation

    Raises
    ------
    UsageError
        Where nothing varies, for an option that cannot vary, and for one that is there twice.
    """
    if not step.settings.over:
        raise UsageError("vary: there is no --over, and nothing varies", "type --over 'stop: en | none'")
    found = list(map(variation, step.settings.over))
    known = _kinds(step)
    for one in found:
        if one.option not in known:
            may = [option(name)[2:] for name in known]
            near = "" if kind_named(one.option) else nearest(one.option.replace("_", "-"), may)
            raise UsageError(
                f"--over {one}: {option(one.option)} cannot vary{near}",
                f"options that change what is counted or compared can: {', '.join(may)}",
            )
    names = [one.option for one in found]
    if twice := next((name for name in names if names.count(name) > 1), ""):
        raise UsageError(
            f"--over: {option(twice)} is there twice", "write all its values in one, with | between them"
        )
    return found


def _kinds(step: Step[Any]) -> dict[str, Kind]:
    """The options that may vary, those of the command first."""
    own = {name: one for name, one in declared(type(step.settings)).items() if name not in declared(VarySettings)}
    reading = {name: one for name, one in declared(InputOptions).items() if name in _OF_INPUT}
    return {
        name: one.metadata["kind"]
        for name, one in {**own, **reading, **declared(Preparation)}.items()
        if not one.metadata["kind"].study_only
    }


def combinations(step: Step[Any]) -> list[Combination]:
    """All combinations of a step, those that need the same texts and the same preparation one after the other.

    Parameters
    ----------
    step : Step

    Returns
    -------
    list of Combination
        Numbered in the order in which the values are typed, the last option changing first.

    Raises
    ------
    UsageError
        For a value that cannot be, or too many of them; it names the combination.
    """
    varied = variations(step)
    settings: VarySettings = step.settings
    number = len(varied[0].values) if settings.paired else prod(len(one.values) for one in varied)
    if number > settings.most:
        sizes = " x ".join(str(len(one.values)) for one in varied)
        raise UsageError(
            f"--over makes {sizes} = {number:,} combinations, and at most {settings.most:,} are made",
            f"leave values out, type --paired, or allow more: --most {number}",
        )
    if settings.paired and (uneven := [one for one in varied if len(one.values) != number]):
        raise UsageError(
            f"--paired: {option(varied[0].option)} has {number} values, {option(uneven[0].option)} "
            f"{len(uneven[0].values)}",
            "give all options as many values",
        )
    kinds = _kinds(step)
    read = [[_value(one, typed, kinds[one.option]) for typed in one.values] for one in varied]
    columns: Iterator[tuple[Any, ...]] = zip(*read, strict=True) if settings.paired else product(*read)
    typed = list(
        zip(*(one.values for one in varied), strict=True) if settings.paired else product(*(v.values for v in varied))
    )
    base = _base_values(step)
    shared = {name: value for name, value in step.typed.items() if name not in declared(VarySettings)}
    return [_combination(at + 1, varied, typed[at], values, step, base, shared) for at, values in enumerate(columns)]


def _value(one: Variation, typed: str, kind: Kind) -> Any:
    """A value as its option reads it; None where the option is left out."""
    if typed == NONE and NONE not in kind.placeholder.split("|"):
        return None
    if kind.switch:
        if typed not in ("yes", "no"):
            raise UsageError(f"--over {one}: {typed!r} is neither yes nor no", "type 'bridge: yes | no'")
        return typed == "yes"
    try:
        return kind.several(typed) if kind.repeatable else kind.read(typed)
    except ValueError as error:
        raise UsageError(f"--over {one}: {option(one.option)} {error}", "nothing was run; mend this value") from error


def _base_values(step: Step[Any]) -> dict[str, Any]:
    """All settings of a step by name, but for those of vary itself."""
    parts = (step.inputs, step.reading, step.preparation, step.settings, step.work, step.counted)
    return {
        name: getattr(part, one.name)
        for part in parts
        for name, one in declared(type(part)).items()
        if name not in declared(VarySettings) or name == "seed"
    }


def _combination(
    number: int,
    varied: Sequence[Variation],
    typed: Sequence[str],
    values: Sequence[Any],
    step: Step[Any],
    base: Mapping[str, Any],
    shared: Mapping[str, Any],
) -> Combination:
    command = step.command.of
    assert command is not None
    own = dict(base)
    for one, value in zip(varied, values, strict=True):
        if one.option in _ADDED:
            own[one.option] = (*base[one.option], *(value or ()))
        elif value is None:
            own.pop(one.option, None)
        else:
            own[one.option] = value
    named = {one.option: text for one, text in zip(varied, typed, strict=True)}
    try:
        made = make_step(command, own)
    except MillstoneError as error:
        label = ", ".join(f"{option(name)} {value}" for name, value in named.items())
        raise type(error)(f"combination {number} ({label}): {error.what}", error.remedy) from error
    return Combination(number, named, replace(made, study=step.study))


_OF_TEXTS = ("drop_repeats", "drop_running", "cut", "mend", "tokens", "tag", "punctuation", "drop_near_duplicates")
"""The settings of preparation that lead to other scans."""


def texts_key(step: Step[Any]) -> tuple[object, ...]:
    """The settings by which the texts of a step differ from those of others.

    Parameters
    ----------
    step : Step

    Returns
    -------
    tuple
    """
    return (step.reading, *(getattr(step.preparation, name) for name in _OF_TEXTS))


def in_order_of_work(every: Sequence[Combination]) -> list[Combination]:
    """Combinations in an order in which those with the same texts, and then the same preparation, stand together.

    Parameters
    ----------
    every : sequence of Combination

    Returns
    -------
    list of Combination
    """
    first: dict[object, int] = {}

    def place(one: Combination) -> tuple[int, int, int]:
        texts = first.setdefault(texts_key(one.step), len(first))
        return texts, first.setdefault(one.step.preparation, len(first)), one.number

    return sorted(every, key=place)


def options_between(one: Combination, other: Combination) -> list[str]:
    """The options whose values differ between two combinations.

    Parameters
    ----------
    one, other : Combination

    Returns
    -------
    list of str
    """
    return [name for name, value in one.values.items() if other.values[name] != value]


def named_values(every: Sequence[Combination]) -> str:
    """The options that vary with their values, in words."""
    names = every[0].values
    return listed(
        [f"{name.replace('_', '-')}: {listed(dict.fromkeys(one.values[name] for one in every))}" for name in names]
    )
