"""What a step works on: scanned texts, and how they came about."""

from dataclasses import dataclass, field

from millstone.core.cleaning import Cleaned
from millstone.core.corpus import Corpus
from millstone.core.repeats import Repeats
from millstone.sources.provenance import Provenance


@dataclass(frozen=True)
class Material:
    """Scanned texts, what was read to make them, what preparation left out of them, and which texts recur."""

    corpus: Corpus
    provenance: Provenance
    cleaned: Cleaned
    too_short: int = 0
    repeats: Repeats = field(default_factory=Repeats)
