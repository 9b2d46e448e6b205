"""Group means of per-document values, with their uncertainty."""

from collections.abc import Sequence

import numpy as np

from millstone.core.tables.table import Table


def group_means(table: Table, values: Sequence[str], groups: Sequence[str]) -> Table:
    """Mean of each value in each group over documents, with its 95 % interval.

    Parameters
    ----------
    table : Table
        One row per document, with a column ``group`` and the columns `values`.
    values, groups : sequence of str

    Returns
    -------
    Table
        ``value, group, n, mean, sd, low, high``; n counts documents that have the value, sd divides by n - 1. The
        limits are ``mean -+ t sd / sqrt(n)`` with Student's t on n - 1 degrees of freedom (Student 1908), NaN for one
        document; the mean is NaN for none.
    """
    from scipy import special

    rows = []
    for value in values:
        for group in groups:
            x = np.asarray(table[value], dtype=float)[table["group"] == group]
            x = x[~np.isnan(x)]
            n = len(x)
            mean = float(x.mean()) if n else np.nan
            sd = float(x.std(ddof=1)) if n > 1 else np.nan
            half = float(special.stdtrit(n - 1, 0.975) * sd / np.sqrt(n)) if n > 1 else np.nan
            rows.append((value, group, n, mean, sd, mean - half, mean + half))
    return Table.of_rows(rows, ["value", "group", "n", "mean", "sd", "low", "high"])
