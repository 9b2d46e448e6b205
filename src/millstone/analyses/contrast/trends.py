"""How a value moves from the beginning of texts to their end."""

from collections.abc import Sequence

import numpy as np

from millstone.analyses.base.groups.pairs import ALPHA
from millstone.core.statistics.significance import adjusted
from millstone.core.tables.table import Table, is_missing

LEAST_PARTS = 3


def trends(table: Table, values: Sequence[str], groups: Sequence[str]) -> Table:
    """The trend of each value within the texts of each group.

    Parameters
    ----------
    table : Table
        One row per part: ``group, part_of, part`` and the values.
    values, groups : sequence of str

    Returns
    -------
    Table
        ``value, group, texts, parts, slope, slope_low, slope_high, rho, departing``. The slope is the change over the
        whole length of a text: of several texts the mean of their slopes with the 95 % interval over texts; of one
        text least squares over its parts. rho is Spearman's, of the number of the part and the mean of the value
        there. `departing` names the parts whose value differs from that of the other parts of the same text (several
        texts: paired t tests over texts, Holm's adjustment over the parts, p below 0.05).

    References
    ----------
    Spearman, C. (1904). The proof and measurement of association between two things.
    """
    rows = []
    for value in values:
        for group in groups:
            here = table.at((table["group"] == group) & ~is_missing(table[value]))
            texts = [
                (np.asarray(own["part"], dtype=float), np.asarray(own[value], dtype=float))
                for _, own in here.by(["part_of"])
                if len(own) >= LEAST_PARTS
            ]
            rows.append((value, group, *_trend(texts)))
    return Table.of_rows(
        rows, ["value", "group", "texts", "parts", "slope", "slope_low", "slope_high", "rho", "departing"]
    )


def _trend(texts: Sequence[tuple[np.ndarray, np.ndarray]]) -> tuple[int, int, float, float, float, float, str]:
    if not texts:
        return 0, 0, np.nan, np.nan, np.nan, np.nan, ""
    import pandas as pd
    from scipy import special, stats

    parts = int(max(part.max() for part, _ in texts))
    slopes = np.array([_slope(part, y) for part, y in texts])
    slope = float(slopes.mean())
    if len(texts) > 1:
        half = float(special.stdtrit(len(texts) - 1, 0.975) * slopes.std(ddof=1) / np.sqrt(len(texts)))
    else:
        half = _half_width(*texts[0])
    number = np.concatenate([part for part, _ in texts])
    every = np.concatenate([y for _, y in texts])
    means = pd.Series(every).groupby(number).mean()
    varies = len(means) > 2 and float(np.ptp(means)) > 0
    rho = float(stats.spearmanr(means.index, means).statistic) if varies else np.nan
    return len(texts), parts, slope, slope - half, slope + half, rho, _departing(texts)


def _slope(part: np.ndarray, y: np.ndarray) -> float:
    """Change over the length of the text, by least squares; part i of k stands at (i - 1/2) / k."""
    x = (part - 0.5) / part.max()
    x = x - x.mean()
    return float(x @ (y - y.mean()) / (x @ x))


def _half_width(part: np.ndarray, y: np.ndarray) -> float:
    x = (part - 0.5) / part.max()
    from scipy import special

    x = x - x.mean()
    residual = y - y.mean() - _slope(part, y) * x
    freedom = len(y) - 2
    return float(special.stdtrit(freedom, 0.975) * np.sqrt(residual @ residual / freedom / (x @ x)))


def _departing(texts: Sequence[tuple[np.ndarray, np.ndarray]]) -> str:
    """The parts that differ from the rest, with the direction."""
    if len(texts) < 2:
        return ""
    from scipy import special

    differences: dict[int, list[float]] = {}
    for part, y in texts:
        others = (y.sum() - y) / (len(y) - 1)
        for number, difference in zip(part.astype(int).tolist(), (y - others).tolist(), strict=True):
            differences.setdefault(number, []).append(difference)
    numbers = sorted(number for number, found in differences.items() if len(found) > 1)
    p = []
    for number in numbers:
        d = np.array(differences[number])
        error = d.std(ddof=1) / np.sqrt(len(d))
        p.append(float(2 * special.stdtr(len(d) - 1, -abs(d.mean() / error))) if error > 0 else np.nan)
    sure = adjusted(np.array(p), "holm") < ALPHA
    noted = [
        f"{number} {'higher' if np.mean(differences[number]) > 0 else 'lower'}"
        for number, is_sure in zip(numbers, sure.tolist(), strict=True)
        if is_sure
    ]
    return "; ".join(noted)
