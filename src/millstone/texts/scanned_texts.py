"""Scanned texts, and how they came about."""

from collections.abc import Mapping
from dataclasses import field
from pathlib import Path
from typing import TYPE_CHECKING, Any

from millstone.core.base.light_dataclass import frozen
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.repeats import Repeats
from millstone.texts.inputs.provenance import Provenance

if TYPE_CHECKING:
    from millstone.core.terms.frequency_lists import FrequencyList


@frozen
class ScannedTexts:
    """Scanned texts, what was read to make them, what preparation left out of them, and which texts recur.

    Where the inputs are frequency lists, `lists` are these, and the corpus is made of them; `of_sizes` are those of
    n-grams of several sizes; `remembered`, where there is one, holds what was counted for one preparation, for
    further steps with the same. `kept_in` is the folder of a scan that is kept; `not_near` is how many tokens
    `--around` left out; `same_texts` are the pairs of groups whose lists were made of the same texts.
    """

    corpus: Corpus
    provenance: Provenance
    cleaned: Cleaned
    too_short: int = 0
    repeats: Repeats = field(default_factory=Repeats)
    lists: "Mapping[str, FrequencyList] | None" = None
    kept_in: Path | None = None
    not_near: int = 0
    same_texts: frozenset[frozenset[str]] = frozenset()
    of_sizes: "Mapping[int, ScannedTexts]" = field(default_factory=dict)
    remembered: "dict[Any, Any] | None" = None
