"""The schemas of coded categories: their rates, their entries, and the units to look at."""

from collections.abc import Iterator

from millstone.core.tables.columns import IN_FILES_ONLY, PERCENT, Column, integer, number, text
from millstone.core.tables.schema import Schema

_UNITS = "units"
_CATEGORY = text("category", "category", "a category of the dictionary", look="key")


def _with_limits(measured: Column, priority: int) -> Iterator[Column]:
    """A column and the limits of its interval."""
    yield measured
    for end, partner, what in (("low", "high", "lower"), ("high", "low", "upper")):
        yield measured.having(
            name=f"{measured.name}_{end}",
            title=end,
            meaning=f"{what} limit of the 95 % interval of {measured.title}",
            priority=priority,
            partner=f"{measured.name}_{partner}",
        )


_OF_UNITS = (
    integer("units", "units", "units that were coded, and not left out", _UNITS, priority=4),
    integer("hits", "hits", "of these the category counts something in so many", _UNITS, priority=5),
    integer("coded_1", "coded 1", "of these coders say of so many that they are of it", _UNITS, priority=5),
)
_RIGHT = (
    *_with_limits(
        number("precision", "precision", "of the hits in all texts, the share that is right", least=0.0, most=1.0),
        2,
    ),
    *_with_limits(
        number(
            "recall",
            "recall",
            "of what is of the category in all texts, the share with a hit",
            least=0.0,
            most=1.0,
        ),
        2,
    ),
    *_with_limits(
        number("f1", "F1", "harmonic mean of precision and recall", priority=3, least=0.0, most=1.0), IN_FILES_ONLY
    ),
)
_BETWEEN_CODERS = (
    integer("coders", "coders", "coders who coded the category", "coders", priority=IN_FILES_ONLY),
    integer("shared", "shared", "units with the codes of two coders or more", _UNITS, priority=3),
    *_with_limits(
        number(
            "percent_agreement", "agree %", "pairs of codes of one unit that are the same", PERCENT, 1, priority=6
        ),
        IN_FILES_ONLY,
    ),
    *_with_limits(
        number(
            "kappa",
            "kappa",
            "Cohen's kappa (1960) of two coders; of more, the mean over pairs (Light 1971)",
            priority=6,
            most=1.0,
        ),
        IN_FILES_ONLY,
    ),
    *_with_limits(
        number("alpha", "alpha", "Krippendorff's alpha (2011): 1 all agree, 0 as if they guessed", most=1.0), 2
    ),
)


def schema() -> Schema:
    """A row for each category."""
    return Schema("agreement", (_CATEGORY, *_OF_UNITS, *_RIGHT, *_BETWEEN_CODERS), every=False)


def entries() -> Schema:
    """A row for each entry that counts in a coded unit."""
    return Schema(
        "entries",
        (
            _CATEGORY.having(look=""),
            text("entry", "entry", "as it is written in the dictionary", look="key"),
            integer("hits", "hits", "coded units in which it counts", _UNITS, priority=2),
            integer("right", "right", "of these, units that are of the category", _UNITS, priority=2),
            *_with_limits(
                number(
                    "precision",
                    "precision",
                    "of its hits in all texts, the share that is right",
                    least=0.0,
                    most=1.0,
                ),
                3,
            ),
            text(
                "wrong",
                "wrong, such as",
                "a unit in which it counts, and which is not of the category",
                priority=2,
                narrowest=24,
                look="wrapped",
            ),
        ),
        blocks=("category",),
        key="entry",
        every=False,
        ordered_by=("precision",),
        empty="no entry counts in a coded unit",
    )


def cases() -> Schema:
    """A row for each unit to look at."""
    return Schema(
        "cases",
        (
            _CATEGORY.having(look=""),
            text(
                "case", "case", "wrong hit: counted, coded 0; missed: not counted, coded 1; coders differ", priority=2
            ),
            text("entries", "entries", "the entries that count in it", priority=3, look="items"),
            text("codes", "codes", "the code of each coder", priority=2, look="items"),
            text("unit_id", "unit", "the name of the unit", priority=5),
            text("document", "document", "the document that it is of", priority=4),
            text("text", "text", "the unit", narrowest=24, look="wrapped"),
        ),
        blocks=("category",),
        key="text",
        every=False,
        empty="coders agree with each other and with the category in every unit",
    )
