"""The comparisons of a table side by side: one row per term."""

from collections.abc import Mapping

import pandas as pd

_LEFT_OUT = ("target", "reference", "rank_target", "rank_reference")


def comparisons_beside(frame: pd.DataFrame) -> pd.DataFrame:
    """One row per term, the comparisons side by side.

    Parameters
    ----------
    frame : DataFrame
        From `keyness`.

    Returns
    -------
    DataFrame
        ``term``, then the columns of each comparison, ``_TARGET`` after each name, or ``_TARGET_REFERENCE`` where
        references differ; by the best rank in any of them. What a comparison does not have is empty.
    """
    alone = frame["reference"].nunique() < 2
    parts = []
    for (target, reference), rows in frame.groupby(["target", "reference"], sort=False):
        own = rows.set_index("term").drop(columns=[name for name in _LEFT_OUT if name in rows])
        own = own.astype({name: "Int64" for name in own if pd.api.types.is_integer_dtype(own[name])})
        suffix = target if alone else f"{target}_{reference}"
        parts.append(own.rename(columns=lambda name, suffix=suffix: f"{name}_{suffix}"))
    if not parts:
        return frame[["term"]]
    both = pd.concat(parts, axis=1)
    ranks = both[[name for name in both if name.startswith("rank_")]]
    order = ranks.min(axis=1).sort_values(kind="stable").index
    return both.loc[order].rename_axis("term").reset_index()


def key_terms(frame: pd.DataFrame, groups: tuple[str, ...], alpha: float) -> Mapping[str, list[str]]:
    """The terms of each group that are more frequent in it, adjusted p below `alpha`, strongest first."""
    sure = frame[frame["p_adjusted"] < alpha]
    found = {group: list(dict.fromkeys(sure.loc[sure["higher_in"] == group, "term"])) for group in groups}
    return {group: terms for group, terms in found.items() if terms}
