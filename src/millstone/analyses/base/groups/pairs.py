"""Which groups are compared with which."""

from collections.abc import Iterator, Sequence
from itertools import combinations

import numpy as np

from millstone.analyses.base.settings import SamplingSettings, TermLimits
from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import listed, nearest, nearest_names, numbered
from millstone.core.corpus.group_names import PAIRS, REST
from millstone.core.evidence.sampling import SamplingUnits, sampling_units
from millstone.core.terms.counts import Counts, Part

MOST_COMPARISONS = 5000
ALPHA = 0.05
"""The level at which a difference is called sure, unless another is asked for."""


@frozen
class Comparison:
    """A target group and the groups it is held against, with the name these go by."""

    target: str
    reference: str
    against: tuple[str, ...]


def comparisons(
    groups: tuple[str, ...], against: str, each_group: bool = False, option: str = "--against"
) -> list[Comparison]:
    """The comparisons that ``--against`` asks for.

    Parameters
    ----------
    groups : tuple of str
        At least two.
    against : str
        ``rest``, ``pairs`` or a group's name.
    each_group : bool
        Under ``rest`` with two groups: list both, where otherwise the first is held against the second.
    option : str
        The option that asks, for messages.

    Raises
    ------
    DataError
        For fewer than two groups, or a group that does not exist.
    """
    check_two_groups(groups, "a comparison")
    if against == REST:
        _check_number(groups, len(groups))
    return list(_comparisons(groups, against, each_group, option))


def _comparisons(groups: tuple[str, ...], against: str, each_group: bool, option: str) -> Iterator[Comparison]:
    if against != REST:
        for first, second in group_pairs(groups, against, (REST, PAIRS), option):
            yield Comparison(first, second, (second,))
        return
    targets = groups if each_group or len(groups) > 2 else groups[:1]
    for target in targets:
        others = tuple(group for group in groups if group != target)
        yield Comparison(target, others[0] if len(others) == 1 else REST, others)


def _check_number(groups: Sequence[str], number: int) -> None:
    if number > MOST_COMPARISONS:
        raise DataError(
            f"{len(groups):,} groups make {number:,} comparisons, and at most {MOST_COMPARISONS:,} are made at once",
            "is the column of the groups the right one? choose documents with --where, or one group with --against",
        )


def check_two_groups(groups: Sequence[str], analysis: str) -> None:
    """Raise DataError for fewer than two groups; `analysis` is what needs them."""
    if len(groups) < 2:
        only = f"{groups[0]!r}" if groups else "none"
        raise DataError(
            f"{analysis} needs two groups, and there is one: {only}",
            "name what makes the groups (--group COLUMN), or give a second input (NAME=PATH)",
        )


def group_pairs(
    groups: Sequence[str], against: str, words: Sequence[str] = (PAIRS,), option: str = "--against"
) -> list[tuple[str, str]]:
    """Every pair of groups, the earlier one first, or each other group with the one named `against`.

    Raises
    ------
    DataError
        For a group that does not exist; it names the `words` that may stand in place of a group.
    """
    if against == PAIRS:
        _check_number(groups, len(groups) * (len(groups) - 1) // 2)
        return list(combinations(groups, 2))
    if against not in groups:
        raise DataError(
            f"{option}: there is no group {against!r}{nearest(against, groups)}",
            f"name one of {nearest_names(against, groups)}, or type {' or '.join(words)}",
        )
    return [(group, against) for group in groups if group != against]


def sides_of(
    counts: Counts, against: str, listed: Counts | None = None, each_group: bool = False
) -> list[tuple[Comparison, Part, Part]]:
    """The comparisons with their two sides.

    Parameters
    ----------
    counts : Counts
    against : str
        ``rest``, ``pairs`` or a group's name.
    listed : Counts, optional
        A frequency list under the same terms; then every group is held against it, whatever `against` is.
    each_group : bool
        As in `comparisons`.

    Raises
    ------
    DataError
        As in `comparisons`; also for a group that has the name of the list.
    """
    if listed is None:
        chosen = comparisons(counts.groups, against, each_group)
        return [(one, counts.part((one.target,)), counts.part(one.against)) for one in chosen]
    (name,) = listed.groups
    if name in counts.groups:
        raise DataError(
            f"--against: the list is called {name!r} like a group", "rename its file, or the group with NAME=PATH"
        )
    reference = listed.part(listed.groups)
    return [(Comparison(group, name, (name,)), counts.part((group,)), reference) for group in counts.groups]


def sampling_of(counts: Counts, listed: Counts | None, settings: SamplingSettings) -> SamplingUnits | None:
    """The sampling units of all documents that are compared; None where frequency lists are."""
    if counts.listed is not None or listed is not None:
        return None
    return sampling_units(counts.documents, settings.sampling_unit, settings.independent_units)


def chosen_terms(target: Part, reference: Part, settings: TermLimits) -> np.ndarray:
    """(terms,) bool: those in the bands of frequency and documents that were asked for, both sides together.

    A term that a cut list may hold is not among them.
    """
    freq = target.freq + reference.freq
    chosen = (freq >= settings.min_freq) & ~target.unknown & ~reference.unknown
    if settings.min_docs:
        chosen &= target.docs + reference.docs >= settings.min_docs
    found: np.ndarray = chosen & (freq <= settings.max_freq) if settings.max_freq else chosen
    return found


def left_out_as_unknown(sides: Sequence[tuple[Part, Part]]) -> str:
    """A note on terms that had to be left out because a truncated list may contain them; "" for none."""
    missing = np.zeros(len(sides[0][0].counts.terms), dtype=bool)
    for target, reference in sides:
        missing |= (target.unknown | reference.unknown) & (target.freq + reference.freq > 0)
    if not missing.any():
        return ""
    cut = {name: why for pair in sides for part in pair for name, why in part.cut.items()}
    named = {why: listed(name for name, own in cut.items() if own == why) for why in dict.fromkeys(cut.values())}
    noted = "; ".join(f"{names}: {why}" for why, names in named.items())
    where = "" if len(sides) == 1 else " of at least one comparison"
    return f"left out{where} {numbered(int(missing.sum()), 'term')} that a cut list may hold ({noted})"


def check_some_left(terms: int, unknown: str = "") -> None:
    """Raise DataError when no term is left to compare; `unknown` says what cut lists may hold."""
    if not terms and unknown:
        raise DataError(
            f"no term is left to compare: {unknown}",
            "save the lists whole, without these options, and compare them with --min-freq and the like",
        )
    if not terms:
        raise DataError(
            "no term is left to compare: the settings leave all of them out",
            "loosen --min-freq, --max-freq, --min-docs, --max-share, or the rules that leave words out",
        )
