"""The comparisons of a table side by side: one row per term."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from millstone.core.corpus.documents import as_objects
from millstone.core.tables.table import Table, spread_out

_LEFT_OUT = ("target", "reference", "rank_target", "rank_reference")


def comparisons_beside(table: Table) -> Table:
    """One row per term, the comparisons side by side.

    Parameters
    ----------
    table : Table
        From `keyness`.

    Returns
    -------
    Table
        ``term``, then the columns of each comparison, ``_TARGET`` after each name, or ``_TARGET_REFERENCE`` where
        references differ; by the best rank in any of them. What a comparison does not have is empty.
    """
    alone = len(set(table["reference"].tolist())) < 2
    place: dict[str, int] = {}
    rows_of = {
        key: (own, np.array([place.setdefault(term, len(place)) for term in own["term"].tolist()], dtype=np.int64))
        for key, own in table.by(["target", "reference"])
    }
    best = np.full(len(place), np.inf)
    columns: dict[str, Any] = {"term": as_objects(list(place))}
    for (target, reference), (own, rows) in rows_of.items():
        suffix = target if alone else f"{target}_{reference}"
        np.minimum.at(best, rows, np.asarray(own["rank"], dtype=float))
        for name, cells in own.without("term", *_LEFT_OUT).items():
            columns[f"{name}_{suffix}"] = spread_out(cells, rows, len(place))
    return Table(columns).at(np.argsort(best, kind="stable"))


def key_terms(table: Table, groups: tuple[str, ...], alpha: float) -> Mapping[str, list[str]]:
    """The terms of each group that are more frequent in it, adjusted p below `alpha`, strongest first."""
    sure = table.at(table["p_adjusted"] < alpha)
    found = {group: list(dict.fromkeys(sure["term"][sure["higher_in"] == group].tolist())) for group in groups}
    return {group: terms for group, terms in found.items() if terms}
