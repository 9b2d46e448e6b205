"""Means of groups as figures draw them: no interval reaches where no value can be."""

from collections.abc import Mapping, Sequence

import numpy as np
import pandas as pd

from millstone.core.columns import Column
from millstone.core.statistics.means import group_means
from millstone.core.table import Table

CUT = " Intervals end where values do: a share or a rate cannot be below 0, nor a share above the whole."


def possible_means(
    frame: pd.DataFrame, values: Sequence[str], groups: Sequence[str], columns: Mapping[str, Column]
) -> pd.DataFrame:
    """The means of `group_means`, their intervals cut off at the limits of the columns; ``cut`` says which were."""
    means = group_means(Table.of_frame(frame), values, groups).to_frame()
    known = [columns.get(str(value)) for value in means["value"]]
    least = np.array([column.least if column else -np.inf for column in known], dtype=float)
    most = np.array([column.most if column else np.inf for column in known], dtype=float)
    cut = (means["low"] < least) | (means["high"] > most)
    return means.assign(low=means["low"].clip(lower=least), high=means["high"].clip(upper=most), cut=cut)
