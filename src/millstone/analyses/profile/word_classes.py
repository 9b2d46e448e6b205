"""Word classes: how many tokens of each part of speech, where texts are annotated or tagged."""

from collections.abc import Mapping

import numpy as np

from millstone.core.corpus.corpus import Corpus
from millstone.core.tables.columns import PERCENT, Column, number

_UNIVERSAL = (
    *("NOUN", "PROPN", "VERB", "AUX", "ADJ", "ADV", "PRON", "DET", "ADP", "CCONJ", "SCONJ", "PART", "NUM", "INTJ"),
    *("SYM", "X"),
)
WORD_CLASSES: Mapping[str, str] = {f"{tag.lower()}_percent": tag for tag in _UNIVERSAL}
"""Name of a measure -> the universal tag (UPOS) whose share it is."""


def tokens_by_class(corpus: Corpus) -> Mapping[str, np.ndarray]:
    """Name of a measure -> (D,) tokens of the class; those that occur, none where texts have no universal tags."""
    tags = np.array([token.tag for token in corpus.annotation], dtype=object)
    present = set(tags.tolist())
    return {
        name: corpus.form_counts @ (tags == tag).astype(np.int64)
        for name, tag in WORD_CLASSES.items()
        if tag in present
    }


def class_column(name: str) -> Column:
    """The column of the share of a word class."""
    tag = WORD_CLASSES[name]
    return number(
        name, f"{tag.lower()} %", f"share of the tokens that are tagged {tag}", PERCENT, 1, least=0.0, most=100.0
    )
