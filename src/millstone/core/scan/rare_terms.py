"""Finds runs whose every term is too rare to matter, without holding all strings in memory."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from millstone.core.matrix.on_disk import Growing, forget
from millstone.core.scan.chunk_tokens import BREAK, PieceTable, are_ascii
from millstone.core.scan.vocabulary import AT_ONCE, SortedStrings
from millstone.core.tokenise.token_rules import Cutter

_SLOTS = 1 << 25
_ALWAYS = -1


@dataclass(frozen=True)
class Rare:
    """Which terms are not wanted: those that occur fewer than `least` times in all.

    `terms` says for forms in code-point order which term each counts as, and (forms,) bool which of them a rule
    leaves out: those are kept, so that it can be said how many they were.
    """

    least: int
    terms: Callable[[list[str]], tuple[Sequence[str], np.ndarray]]


def wanted_runs(strings: SortedStrings, times: np.ndarray, cut: Cutter, rare: Rare) -> tuple[np.ndarray, np.ndarray]:
    """Which runs are wanted, and how many tokens each of them has.

    Parameters
    ----------
    strings : SortedStrings
        All runs of a corpus.
    times : ndarray
        (runs,) int64, how often each occurs.
    cut : callable
        The token rule.
    rare : Rare

    Returns
    -------
    wanted : ndarray
        (runs,) bool: all those with a term that is frequent enough, or a form that a rule leaves out; some of the
        rest may be among them.
    tokens : ndarray
        (runs,) int32.

    Notes
    -----
    Occurrences are added up under a hash of the term. Terms whose hashes agree count as one here, so that none that
    is frequent enough is ever missed.
    """
    # counts are capped: beyond `least` the exact number does not matter
    sums, often = np.zeros(_SLOTS, dtype=np.int32), np.minimum(times, rare.least).astype(np.int32)
    slots = Growing(np.int32, 0)
    tokens = np.zeros(len(strings), dtype=np.int32)
    for here, spelled, lengths in strings.blocks():
        runs = spelled.decode("utf-8", "surrogatepass").split("\n")[:-1]
        table = PieceTable(runs, are_ascii(spelled, lengths), [], cut, False)
        words, is_left_out = rare.terms(table.forms)
        of_form = np.fromiter(map(hash, words), dtype=np.int64, count=len(words)) & (_SLOTS - 1)
        content = table.content[: table.first[len(runs)]]
        is_token = content != BREAK
        tokens[here] = np.diff(np.concatenate(([0], np.cumsum(is_token)))[table.first[: len(runs) + 1]])
        slot = of_form[content[is_token]].astype(np.int32)
        np.add.at(sums, slot, np.repeat(often[here], tokens[here]))
        slot[is_left_out[content[is_token]]] = _ALWAYS
        slots.add(slot)
    found, ends = slots.array(), np.cumsum(tokens)
    wanted = np.zeros(len(strings), dtype=bool)
    for first in range(0, len(strings), AT_ONCE):
        here = slice(first, min(first + AT_ONCE, len(strings)))
        some = found[ends[first] - tokens[first] : ends[here.stop - 1]]
        is_enough = (some == _ALWAYS) | (sums[some] >= rare.least)
        wanted[np.repeat(np.arange(here.start, here.stop), tokens[here])[is_enough]] = True
    forget(found)
    return wanted, tokens
