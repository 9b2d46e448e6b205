"""The sampling units of a corpus: how many each group has, which lie in several, and what may be a better unit."""

from collections.abc import Sequence

import numpy as np

from millstone.core.base.arrays import unique, unique_counts
from millstone.core.base.wording import listed, numbered
from millstone.core.corpus.corpus import group_codes
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.tables.table import Table, distinct_rows

_LIKE_UNITS = ("author", "speaker", "user", "source", "writer", "newspaper", "participant", "informant", "account")
_NOT_FIELDS = ("document", "group", "part_of", "part", "position")
_DOCUMENTS_PER_VALUE = 2


def units_in_words(documents: Table, groups: Sequence[str], units: SamplingUnits) -> list[str]:
    """The notes on the sampling units of a corpus.

    Parameters
    ----------
    documents : Table
        One row each.
    groups : sequence of str
    units : SamplingUnits

    Returns
    -------
    list of str
        How many units each group has, how many lie in several groups, and the field that looks like a unit, if any.
    """
    codes = group_codes(documents, groups)
    of_group = [unique(units.of[codes == number]) for number in range(len(groups))]
    sizes = listed(f"{name} {units.counted(len(own))}" for name, own in zip(groups, of_group, strict=True))
    found = [f"sampling units: {sizes}"]
    together, times = unique_counts(np.concatenate([np.array([], dtype=np.int64), *of_group]))
    several = int((times > 1).sum())
    if several:
        lie = "lies" if several == 1 else "lie"
        found.append(f"{several:,} of {len(together):,} sampling units {lie} in several groups")
    if units.without:
        found.append(f"{numbered(units.without, 'document')} without a value of {units.field}: units of their own")
    if not units.field:
        found += [
            f"{name} has {number:,} values for {numbered(len(documents), 'document')}: where those of one {name} are "
            f"alike, they are one sampling unit (--sampling-unit {name})"
            for name, number in _like_units(documents)
        ]
    return found


def _like_units(documents: Table) -> list[tuple[str, int]]:
    """The fields that may say which documents were drawn together, with their numbers of values."""
    found = []
    for name, cells in documents.items():
        words = name.lower().replace("-", "_").split("_")
        if name in _NOT_FIELDS or not any(
            one in _LIKE_UNITS or one.removesuffix("s") in _LIKE_UNITS for one in words
        ):
            continue
        values = [str(cell).strip() for cell in cells.tolist()]
        number = len(set(values) - {""})
        # as many values as groups are the groups
        is_the_group = len(distinct_rows([cells, documents["group"]])[1]) == len(set(documents["group"].tolist()))
        if number > 1 and not is_the_group and sum(map(bool, values)) >= _DOCUMENTS_PER_VALUE * number:
            found.append((name, number))
    return found
