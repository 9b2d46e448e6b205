"""Several texts in one, so that a thousand short ones are cut up as fast as a long one."""

import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from millstone.core.corpus.corpus import Document
from millstone.core.matches.token_offsets import token_spans

_BETWEEN = "\n\n"


@dataclass(frozen=True)
class JoinedTexts:
    """N texts with a blank line between two of them, and where their tokens are.

    Attributes
    ----------
    text : str
    spans : ndarray
        (T, 2) where each token begins and ends.
    begin, end : ndarray
        (N,) the first character of each text, and the one after its last.
    first_token : ndarray
        (N + 1,) the first token of each text, and T.
    """

    text: str
    spans: np.ndarray
    begin: np.ndarray
    end: np.ndarray
    first_token: np.ndarray


def can_be_joined(document: Document) -> bool:
    """Whether the tokens of a document can be found together with those of others."""
    return document.annotated is None and unicodedata.is_normalized("NFC", document.text)


def joined(documents: Sequence[Document], rule: str = "words") -> JoinedTexts:
    """The texts of documents in one; a single document may be of any kind, of several each must be fit for it.

    Parameters
    ----------
    documents : sequence of Document
        N documents, their texts in one.
    rule : str
        The token rule.
    """
    size = np.array([len(document.text) for document in documents])
    begin = np.concatenate(([0], np.cumsum(size + len(_BETWEEN))[:-1]))
    whole = replace(documents[0], text=_BETWEEN.join(document.text for document in documents))
    spans = token_spans(whole, rule)
    first_token = np.append(np.searchsorted(spans[:, 0], begin), len(spans))
    return JoinedTexts(whole.text, spans, begin, begin + size, first_token)
