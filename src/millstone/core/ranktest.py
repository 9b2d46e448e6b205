"""Mann-Whitney's test of every term over documents, on sparse matrices."""

import numpy as np
from scipy import sparse, special


def mann_whitney(
    target: sparse.csr_array, reference: sparse.csr_array, base_target: np.ndarray, base_reference: np.ndarray
) -> np.ndarray:
    """Two-sided p of Mann-Whitney's U for each term; an observation is a document's relative frequency.

    Parameters
    ----------
    target, reference : csr_array
        (documents, terms) occurrences.
    base_target, base_reference : ndarray
        (documents,) tokens, all above 0.

    Returns
    -------
    ndarray
        (terms,) by the normal approximation with tie and continuity correction; NaN where all
        documents are equal.

    References
    ----------
    Mann, H. B. & Whitney, D. R. (1947). Lijffijt, J. et al. (2016). Significance testing of word
    frequencies in corpora.

    Notes
    -----
    Documents without a term are one tie at the bottom, so only the documents that have it are sorted.
    """
    n1, n2 = len(base_target), len(base_reference)
    n = n1 + n2
    both = sparse.vstack([target, reference], format="csr")
    terms = both.shape[1]
    rows = np.repeat(np.arange(n), np.diff(both.indptr))
    rate = both.data / np.concatenate((base_target, base_reference))[rows]
    order = np.lexsort((rate, both.indices))
    term, rate, in_target = both.indices[order], rate[order], rows[order] < n1

    present = np.bincount(term, minlength=terms)
    absent = n - present
    first_of_term = np.cumsum(present) - present
    starts_tie = np.ones(len(term), dtype=bool)
    starts_tie[1:] = (term[1:] != term[:-1]) | (rate[1:] != rate[:-1])
    tie = np.cumsum(starts_tie) - 1
    tie_first = np.flatnonzero(starts_tie)
    tie_size = np.diff(np.append(tie_first, len(term)))
    tie_rank = tie_first - first_of_term[term[tie_first]] + absent[term[tie_first]] + (tie_size + 1) / 2

    absent_in_target = n1 - np.bincount(term, weights=in_target, minlength=terms)
    rank_sum = absent_in_target * (absent + 1) / 2
    rank_sum += np.bincount(term, weights=np.where(in_target, tie_rank[tie], 0), minlength=terms)
    u = rank_sum - n1 * (n1 + 1) / 2
    cubes = np.bincount(term[tie_first], weights=tie_size.astype(float) ** 3 - tie_size, minlength=terms)
    cubes += absent.astype(float) ** 3 - absent
    variance = n1 * n2 / 12 * ((n + 1) - cubes / (n * max(n - 1, 1)))
    with np.errstate(invalid="ignore", divide="ignore"):
        z = (np.abs(u - n1 * n2 / 2) - 0.5) / np.sqrt(np.where(variance > 1e-12, variance, np.nan))
    return np.minimum(special.erfc(z / np.sqrt(2)), 1)
