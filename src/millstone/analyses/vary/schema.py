"""The schemas of results under many settings."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from millstone.analyses.vary.rows import Form
from millstone.core.tables.columns import (
    GROUP,
    NODE,
    OCCURRENCES,
    PROBABILITY,
    Column,
    integer,
    number,
    text,
)
from millstone.core.tables.schema import Schema

_EFFECT = "unit of the effect"
_BLOCKS = (
    GROUP.having(look=""),
    NODE,
    text("target", "target", "the group, or the node, that is held against the reference"),
    text("reference", "reference", "the other side: a group, a node, or rest for all other groups"),
)
_TERM = text("term", "term", "the term, the collocate or the value that a row is of", look="key", drawn=True)
_SHARE = "share of settings"
_COLUMNS = (
    *_BLOCKS,
    _TERM,
    number(
        "passes",
        "passes",
        "in which share of the settings that have the row it passes, in the direction of its median effect",
        _SHARE,
        2,
        least=0,
        most=1,
        drawn=True,
    ),
    integer("settings", "settings", "combinations of settings that have the row", "settings", priority=4),
    number("median", "median", "median effect over these settings", _EFFECT, drawn=True),
    number("lowest", "lowest", "lowest effect", _EFFECT, priority=2, partner="highest"),
    number("highest", "highest", "highest effect", _EFFECT, partner="lowest"),
    integer(
        "sign_changes",
        "sign changes",
        "settings in which the effect points the other way than its median",
        "settings",
        priority=5,
        optional=True,
    ),
    text(
        "depends_on",
        "depends on",
        "the option whose values differ most in the share of settings that pass; empty where none does",
        partner="depends_by",
    ),
    number(
        "depends_by",
        "by",
        "the largest of these shares less the smallest",
        _SHARE,
        2,
        least=0,
        most=1,
        partner="depends_on",
    ),
    number(
        "p_median",
        "p median",
        "how often a median effect as large comes about when sampling units are put into groups at random",
        PROBABILITY,
        4,
        optional=True,
    ),
    number(
        "p_passes",
        "p passes",
        "how often as large a share of the settings passes when sampling units are put into groups at random",
        PROBABILITY,
        4,
        optional=True,
    ),
)


def schema() -> Schema:
    """Rows over many combinations of settings."""
    return Schema(
        "vary", _COLUMNS, blocks=("group", "node", "target", "reference"), joint=" compared with ", every=False
    )


def _both(column: Column, **further: Any) -> tuple[Column, Column]:
    """A column of the first combination and of the second."""
    made = []
    for side, other in ((1, 2), (2, 1)):
        made.append(
            column.having(
                name=f"{column.name}_{side}",
                title=f"{column.title} {side}",
                meaning=f"{column.meaning}, under combination {side}",
                partner=f"{column.name}_{other}",
                **further,
            )
        )
    return made[0], made[1]


def moved() -> Schema:
    """Rows that moved between two combinations of settings."""
    return Schema(
        "moved",
        (
            *_BLOCKS,
            _TERM,
            text(
                "change",
                "change",
                "enters or leaves the list, goes up or down in rank, of equal ranks in effect",
                drawn=True,
            ),
            *_both(integer("rank", "rank", "place in its list, 1 first"), drawn=True),
            *_both(integer("freq", "freq", "occurrences in the groups compared", OCCURRENCES), priority=4),
            *_both(number("effect", "effect", "its effect", _EFFECT), priority=5),
            *_both(number("p", "p", "its adjusted p", PROBABILITY, 4), priority=6),
            text("why", "why", "what became of the words that count as it", look="wrapped", narrowest=16),
        ),
        blocks=("group", "node", "target", "reference"),
        joint=" compared with ",
        every=False,
        empty="nothing moved",
    )


def each(options: Sequence[str] = ()) -> Schema:
    """Every row under every combination; the `options` that vary have a column each."""
    named = tuple(text(name, name.replace("_", " "), f"the value of --{name.replace('_', '-')}") for name in options)
    return Schema(
        "each",
        (
            *_BLOCKS,
            _TERM,
            integer("combination", "combination", "the number of the combination of settings", drawn=True),
            *named,
            number("effect", "effect", "its effect", _EFFECT, drawn=True),
            number("low", "low", "lower limit of its 95 % interval", _EFFECT, partner="high", optional=True),
            number("high", "high", "upper limit of its 95 % interval", _EFFECT, partner="low", optional=True),
            number("p_adjusted", "p adjusted", "its adjusted p", PROBABILITY, 4, optional=True),
            text("passes", "passes", "whether it passes: yes or no"),
            integer("rank", "rank", "place in its list, 1 first", priority=3),
            integer("freq", "freq", "occurrences in the groups compared", OCCURRENCES, priority=4),
        ),
        blocks=("group", "node", "target", "reference"),
        joint=" compared with ",
    )


def columns_for(schema: Schema, names: Sequence[str], form: Form, first: int) -> Mapping[str, Column]:
    """The columns of a table, its effect named as the command that was varied has it.

    Parameters
    ----------
    schema : Schema
    names : sequence of str
        The columns that the table has.
    form : Form
        Of the tables of that command.
    first : int
        Without tests a row passes among the first so many of its list.

    Returns
    -------
    mapping
        Name -> column.
    """
    found = {}
    for name, one in schema.of_table(names).items():
        column = (
            one.having(unit=form.unit, meaning=one.meaning.replace("effect", form.called))
            if one.unit == _EFFECT
            else one
        )
        if name == "passes" and not form.p:
            column = column.having(
                meaning=column.meaning.replace("it passes", f"it is among the first {first} of its list")
            )
        found[name] = column
    return found


def joint_of(schema: Schema, form: Form) -> Schema:
    """The schema with the names of its lists joined as those of a command are.

    Parameters
    ----------
    schema : Schema
    form : Form

    Returns
    -------
    Schema
    """
    return replace(schema, joint=": ") if "target" not in form.blocks.values() else schema
