"""Weighted log odds: the log odds ratio of each term with a Dirichlet prior."""

import numpy as np

from millstone.analyses.base.groups.notes import TakeNote, joined
from millstone.analyses.base.groups.pairs import (
    Comparison,
    check_some_left,
    chosen_terms,
    left_out_as_unknown,
    sampling_of,
    sides_of,
)
from millstone.analyses.logodds.settings import LogOddsSettings
from millstone.core.corpus.group_names import check_group_names
from millstone.core.evidence.quasi_likelihood import dispersion
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.evidence.unit_sums import units_and_sums
from millstone.core.statistics.contingency import Z95
from millstone.core.statistics.effect_sizes import log_ratio
from millstone.core.statistics.ranks import ranking
from millstone.core.tables.table import Table
from millstone.core.terms.background import Background
from millstone.core.terms.counts import Counts, Part

"""The priors that are not a list."""
FEW_COUNTS = 10
UNIFORM = 0.5
Z_NOTED = 1.96
HEAVY = 20
"""A prior that weighs more than so many times a group is noted."""


def log_odds(
    counts: Counts,
    settings: LogOddsSettings | None = None,
    background: Background | None = None,
    listed: Counts | None = None,
    note: TakeNote = lambda text: None,
) -> Table:
    """The weighted log odds of each term, group by group.

    Parameters
    ----------
    counts : Counts
        Two groups or more. Every term kept in any group is the vocabulary, and the totals are
        sums over it; a term that a cut list lacks is not part of it.
    settings : LogOddsSettings, optional
    background : Background, optional
        The list that the prior is made of, instead of the one that `settings` names.
    listed : Counts, optional
        A frequency list under the same terms, against which every group is held.
    note : callable
        Receives a note when the prior outweighs a group.

    Returns
    -------
    Table
        ``target, against, rank, term, freq, freq_against, log_odds, std_error, z, design_effect, z_documents,
        log_ratio, note``; ranked by z descending within a comparison. design_effect is how many times more a term
        varies between sampling units than chance would, z_documents is z by its square root; both are empty where a
        side has not two units.

    Raises
    ------
    DataError
        For one group only, a group without tokens, or a group to compare with that does not exist.
    """
    settings = settings or LogOddsSettings()
    check_group_names(counts.sizes)
    pool = counts.part(counts.groups).freq.astype(float)
    if listed is not None:
        pool += listed.part(listed.groups).freq
    every = [counts.part(counts.groups), *([listed.part(listed.groups)] if listed is not None else [])]
    kept = np.flatnonzero((pool > 0) & ~np.logical_or.reduce([part.unknown for part in every]))
    of_list = background.freq_of(counts.terms[kept]) if background is not None else None
    alpha = prior(pool[kept], settings, of_list)
    chosen = sides_of(counts, settings.against, listed, each_group=True)
    unknown = left_out_as_unknown([(every[0], every[-1])])
    check_some_left(len(kept), unknown)
    units = sampling_of(counts, listed, settings)
    tables = [_compare(*sides, kept, alpha, settings, units) for sides in chosen]
    check_some_left(sum(map(len, tables)))
    if unknown:
        note(unknown)
    _note_weight(counts, kept, float(alpha.sum()), settings, note)
    if settings.prior == "pooled" and background is None:
        _note_cap(settings, note)
    return Table.joined(tables)


def _note_cap(settings: LogOddsSettings, note: TakeNote) -> None:
    most = np.log(1 + 1 / settings.prior_weight)
    note(
        f"under the pooled prior the log odds of two equal groups stay within about {most:.2f}, however large "
        "their difference; log_ratio says how large it is"
    )


def _note_weight(counts: Counts, kept: np.ndarray, weight: float, settings: LogOddsSettings, note: TakeNote) -> None:
    own = {group: int(counts.part((group,)).freq[kept].sum()) for group in counts.groups}
    least = min(own, key=own.__getitem__)
    few = sum(number * HEAVY < weight for number in own.values())
    if few:
        groups = f"{few} of the {len(own)} groups" if few > 1 else least
        lighter = "--prior-count" if settings.prior == "uniform" else "--prior-weight"
        note(
            f"the prior weighs as much as {weight:,.0f} counts, more than {HEAVY} times those of {groups}, and "
            f"draws their log odds towards 0 ({least} has {own[least]:,}; {lighter} makes it lighter)"
        )


def prior(pool: np.ndarray, settings: LogOddsSettings, background: np.ndarray | None = None) -> np.ndarray:
    """(terms,) the prior alpha of each term.

    Parameters
    ----------
    pool : ndarray
        (terms,) the occurrences in all groups.
    settings : LogOddsSettings
    background : ndarray, optional
        (terms,) occurrences above 0 in a list; the prior has its proportions and the size of the pool.
    """
    if background is not None:
        found: np.ndarray = settings.prior_weight * pool.sum() * background / background.sum()
        return found
    if settings.prior == "pooled":
        return settings.prior_weight * pool
    return np.full(len(pool), settings.prior_count if settings.prior == "uniform" else 0.0)


def log_odds_ratio(y_i: np.ndarray, y_j: np.ndarray, alpha: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Log odds ratio, its standard error and z.

    Parameters
    ----------
    y_i, y_j : ndarray
        (terms,) occurrences on the two sides, over the whole vocabulary.
    alpha : ndarray
        (terms,) prior, 0 or more.

    Returns
    -------
    log_odds, std_error, z : ndarray
        (terms,) each; NaN where a count and its prior are both 0, and for a vocabulary of one term.

    References
    ----------
    Monroe, B. L., Colaresi, M. P. & Quinn, K. M. (2008). Fightin' words.

    Examples
    --------
    >>> d, error, z = log_odds_ratio(np.array([8, 2]), np.array([2, 8]), np.array([10, 10]))
    >>> d.round(3).tolist(), error.round(3).tolist(), z.round(3).tolist()
    ([0.811, -0.811], [0.373, 0.373], [2.176, -2.176])
    """
    in_i, in_j = y_i + alpha, y_j + alpha
    other_i, other_j = in_i.sum() - in_i, in_j.sum() - in_j
    defined = (in_i > 0) & (in_j > 0) & (other_i > 0) & (other_j > 0)
    with np.errstate(invalid="ignore", divide="ignore"):
        ratio = np.log(in_i / other_i) - np.log(in_j / other_j)
        error = np.sqrt(1 / in_i + 1 / in_j)
    ratio, error = np.where(defined, ratio, np.nan), np.where(defined, error, np.nan)
    return ratio, error, ratio / error


def _compare(
    comparison: Comparison,
    target: Part,
    reference: Part,
    kept: np.ndarray,
    alpha: np.ndarray,
    settings: LogOddsSettings,
    units: SamplingUnits | None,
) -> Table:
    y_i, y_j = target.freq[kept], reference.freq[kept]
    ratio, error, z = log_odds_ratio(y_i, y_j, alpha)
    plain, _, plain_z = log_odds_ratio(y_i, y_j, np.full(len(kept), UNIFORM))
    depends = (np.sign(ratio) != np.sign(plain)) | ((np.abs(z) > Z_NOTED) != (np.abs(plain_z) > Z_NOTED))
    few = y_i + y_j < FEW_COUNTS
    depends &= ~np.isnan(ratio)
    notes = joined({"few counts": few, "depends on prior": depends})
    wanted = np.flatnonzero(chosen_terms(target, reference, settings)[kept])
    wanted = wanted[ranking(z[wanted], np.zeros(len(wanted)))]
    z_shown = z[wanted]
    _, sums = units_and_sums(target, reference, kept[wanted], units)
    effect = np.full(len(wanted), np.nan) if sums is None else dispersion(sums, np.zeros(len(wanted)))
    return Table(
        {
            "target": comparison.target,
            "against": comparison.reference,
            "rank": np.arange(1, len(wanted) + 1),
            "term": np.asarray(target.counts.terms[kept[wanted]], dtype=object),
            "freq": y_i[wanted],
            "freq_against": y_j[wanted],
            "log_odds": ratio[wanted],
            "std_error": error[wanted],
            "z": z_shown,
            "design_effect": effect,
            "z_documents": z_shown / np.sqrt(effect),
            "log_ratio": log_ratio(y_i[wanted], y_j[wanted], target.tokens, reference.tokens)[0],
            "note": notes[wanted],
        }
    )


def interval(ratio: np.ndarray, error: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The 95 % interval of a log odds ratio; for drawing."""
    return ratio - Z95 * error, ratio + Z95 * error
