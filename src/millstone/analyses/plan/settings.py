"""The settings of plan."""

import re

from millstone.analyses.base.settings import SamplingSettings, TermLimits
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kind import Kind
from millstone.core.settings.kinds import integer, number, share

_SIZE = re.compile(r"(.+)=(\d{1,12})\s*[xX\u00d7]\s*(\d{1,12})")


@frozen
class PlannedGroup:
    """A group that is still to be made: so many documents of so many tokens each."""

    name: str
    documents: int
    tokens: int


def planned_group(typed: str) -> PlannedGroup:
    """Read a group as it is typed, such as old=20x5000.

    Parameters
    ----------
    typed : str

    Returns
    -------
    PlannedGroup

    Raises
    ------
    ValueError
        For another form, fewer than two documents, or no tokens.
    """
    found = _SIZE.fullmatch(typed.strip())
    if found is None:
        raise ValueError(f"must be NAME=DOCUMENTSxTOKENS such as old=20x5000, not {typed!r}")
    group = PlannedGroup(found[1].strip(), int(found[2]), int(found[3]))
    if group.documents < 2:
        raise ValueError(
            f"{typed!r} has {group.documents} document{'' if group.documents == 1 else 's'}: how much words vary "
            "between documents shows in two or more"
        )
    if not group.tokens:
        raise ValueError(f"{typed!r} has documents of 0 tokens")
    return group


def is_planned_group(typed: str) -> bool:
    """Whether a text is a group as `planned_group` reads it.

    Parameters
    ----------
    typed : str

    Returns
    -------
    bool
    """
    try:
        planned_group(typed)
    except ValueError:
        return False
    return True


def _sizes(metavar: str) -> Kind:
    """Groups to be made, such as old=20x5000; the values are the texts."""

    def read(typed: str) -> str:
        planned_group(typed)
        return typed.strip()

    return Kind(metavar, read, repeatable=True, split_at=",")


@frozen
class PlanSettings(SamplingSettings, TermLimits):
    """Settings of ``plan``."""

    power: float = setting(
        share("X"), 0.8, "the probability with which a difference is to be found: 0.8 is 8 of 10 such corpora"
    )
    alpha: float = setting(share("X"), 0.05, "the level below which p counts as a difference")
    sizes: tuple[str, ...] = setting(
        _sizes("NAME=DOCUMENTSxTOKENS"), (), "groups of so many documents of so many tokens each, in place of texts"
    )
    design_effect: float = setting(
        number("X", 0), 1.0, "--sizes: how many times more words vary between documents than chance would"
    )
    terms: int = setting(
        integer("N", 1), 1000, "--sizes: how many terms are going to be compared, for smallest_ratio_strict"
    )
