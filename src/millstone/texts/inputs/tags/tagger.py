"""Raw text tagged: each token of a document with a part of speech and a lemma."""

import importlib.metadata
import importlib.util
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Document, Token
from millstone.core.matches.token_offsets import token_spans
from millstone.core.terms.word_lists import UNSURE
from millstone.core.tokenise.token_rules import cutter, is_mark
from millstone.core.tokenise.words import SENTENCE_END
from millstone.texts.inputs.lists.english_lemmas import english_lemmas
from millstone.texts.inputs.lists.lemmas import of_language
from millstone.texts.inputs.tags.tag_sets import universal_tag

Sentence = Sequence[tuple[str, bool]]
"""Tokens and marks as they are written, and whether each is a word."""

LANGUAGES = {"en": "English", "de": "German", "nl": "Dutch"}
_MODELS = {"en": "morphmodel_en.pgz", "de": "morphmodel_ger.pgz", "nl": "morphmodel_dutch.pgz"}
_CLITICS = {
    "en": re.compile(r"(.+?)(n't|'(?:s|m|re|ve|ll|d))", re.IGNORECASE),
    "de": re.compile(r"(.+?)('s)", re.IGNORECASE),
}
_NOT_WORD = ("PUNCT", "SYM")
# a longer token is not a word, and would take minutes
_LONGEST = 50


def check_tagger() -> None:
    """Raise DataError where there is no tagger."""
    if importlib.util.find_spec("HanTa") is None:
        raise DataError(
            "--tag needs a tagger, which is not installed",
            "pip install 'millstone-corpus[tags]', or in a clone of the repository pip install '.[tags]'",
        )


def tagger_name() -> str:
    """The tagger and its version."""
    return f"HanTa {importlib.metadata.version('hanta')}"


@dataclass
class Guesses:
    """How many words were tagged, how many of them the tagger does not know, and documents with their own tags."""

    words: int = 0
    unknown: int = 0
    annotated: int = 0

    def add(self, other: "Guesses") -> None:
        """Add those of other documents."""
        self.words += other.words
        self.unknown += other.unknown
        self.annotated += other.annotated


@cache
def _model(language: str) -> Any:
    from HanTa.HanoverTagger import HanoverTagger

    return HanoverTagger(_MODELS[language])


def sentences_of(document: Document, rule: str) -> Iterator[Sentence]:
    """The tokens and marks of each sentence of a document, whose text is in one."""
    text, cut = document.text, cutter(rule, marks=True)
    spans = iter(token_spans(document, rule).tolist())
    sentence: list[tuple[str, bool]] = []
    for piece in text.split():
        for token in cut(piece):
            if token is SENTENCE_END:
                if sentence:
                    yield sentence
                sentence = []
            elif is_mark(token):
                sentence.append((token, False))
            else:
                first, after = next(spans)
                sentence.append((text[first:after], True))
    if sentence:
        yield sentence


def tagged_sentences(sentences: Sequence[Sentence], language: str) -> tuple[list[list[Token]], Guesses]:
    """The tokens of sentences with universal tags (UPOS) and lemmas.

    Parameters
    ----------
    sentences : sequence of Sentence
    language : str
        ``en``, ``de`` or ``nl``.

    References
    ----------
    Wartena, C. (2019). A probabilistic morphology model for German lemmatization.
    """
    guesses = Guesses()
    return [list(_tagged_sentence(sentence, language, guesses)) for sentence in sentences], guesses


def _tagged_sentence(sentence: Sentence, language: str, guesses: Guesses) -> Iterator[Token]:
    model = _model(language)
    parts: list[str] = []
    begins: list[int] = []
    for written, is_word in sentence:
        begins.append(len(parts))
        parts += _parts(written, language) if is_word else [written]
    found = model.tag_sent(parts)
    for (written, is_word), at in zip(sentence, begins, strict=True):
        _, lemma, tag = found[at]
        if not is_word:
            yield Token(written, written, "PUNCT")
            continue
        guesses.words += 1
        universal = universal_tag(language, tag, lemma)
        if len(written) > _LONGEST or universal in _NOT_WORD:
            yield Token(written, written, "X")
            continue
        if not _is_known(parts[at], language):
            guesses.unknown += not written[0].isdecimal()
            lemma = _looked_up(parts[at], universal, lemma, language)
        yield Token(written, lemma, universal)


def _is_known(word: str, language: str) -> bool:
    return word.lower() in _model(language).cache


def _looked_up(word: str, universal: str, guessed: str, language: str) -> str:
    """The lemma of a word that the tagger does not know, so that none is made up: from a dictionary, or the word."""
    if universal == "PROPN" or any(map(str.isdecimal, word)):
        return word
    if language == "en":
        found = english_lemmas(word.lower(), universal)
    else:
        sure = of_language(language)(word) or ""
        found = [] if sure.startswith(UNSURE) else [sure]
    if guessed in found or (not found and _is_known(guessed, language)):
        return guessed
    return found[0] if found else word.lower() if language == "en" else word


def _parts(written: str, language: str) -> list[str]:
    """A token as the tagger knows it: with a straight apostrophe, what is attached to it apart."""
    plain = written.replace("’", "'")[:_LONGEST]
    split = _CLITICS[language].fullmatch(plain) if language in _CLITICS else None
    return list(split.groups()) if split else [plain]
