"""Texts whose tokens were parted before, as ``do n't`` and ``-LRB-``."""

from collections import Counter

from millstone.analyses.base.guards.commonest import GroupWords
from millstone.core.base.wording import numbered

_BRACKETS = ("lrb", "rrb", "lsb", "rsb", "lcb", "rcb")
_PARTS = ("n't", "ll", "ve", "re")
_LEAST = 3
_SHARE = 1 / 2000


def tokenised_before(words: GroupWords) -> str:
    """The option for texts whose tokens were parted before, and why; "" for others.

    Parameters
    ----------
    words : mapping
        Group -> occurrences of its commonest words, and its tokens.
    """
    counted: Counter[str] = Counter()
    for own, _ in words.values():
        counted.update(own)
    tokens = sum(number for _, number in words.values())
    brackets = {sign: counted[sign] for sign in _BRACKETS if counted[sign]}
    parted = {part: counted[part] for part in _PARTS if counted[part]}
    whole = sum(
        times for word, times in counted.items() if word.endswith(("n't", "'ll", "'ve", "'re")) and word != "n't"
    )
    found = {**brackets, **(parted if sum(parted.values()) > whole and counted["n't"] else {})}
    times = sum(found.values())
    if times < max(_LEAST, _SHARE * tokens):
        return ""
    example = max(found, key=lambda word: (found[word], word))
    shown = f"-{example.upper()}-" if example in _BRACKETS else example
    return f"tokens seem to be parted already, such as {shown} {numbered(found[example], 'time')}: --tokens spaces"
