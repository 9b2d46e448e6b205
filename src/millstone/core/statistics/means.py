"""Group means of per-document values, with their uncertainty."""

from collections.abc import Sequence

import numpy as np
import pandas as pd
from scipy import special


def group_means(frame: pd.DataFrame, values: Sequence[str], groups: Sequence[str]) -> pd.DataFrame:
    """Mean of each value in each group over documents, with its 95 % interval.

    Parameters
    ----------
    frame : DataFrame
        One row per document, with a column ``group`` and the columns `values`.
    values, groups : sequence of str

    Returns
    -------
    DataFrame
        ``value, group, n, mean, sd, low, high``; n counts documents that have the value, sd divides by n - 1. The
        limits are ``mean -+ t sd / sqrt(n)`` with Student's t on n - 1 degrees of freedom (Student 1908), NaN for one
        document; the mean is NaN for none.
    """
    rows = []
    for value in values:
        for group in groups:
            x = frame.loc[frame["group"] == group, value].to_numpy(dtype=float)
            x = x[~np.isnan(x)]
            n = len(x)
            mean = float(x.mean()) if n else np.nan
            sd = float(x.std(ddof=1)) if n > 1 else np.nan
            half = float(special.stdtrit(n - 1, 0.975) * sd / np.sqrt(n)) if n > 1 else np.nan
            rows.append((value, group, n, mean, sd, mean - half, mean + half))
    return pd.DataFrame(rows, columns=["value", "group", "n", "mean", "sd", "low", "high"])
