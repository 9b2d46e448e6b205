"""English lemmas of words whose class is not known: from a dictionary of inflected forms, by rules that choose."""

import re
from collections.abc import Iterator, Mapping, Sequence
from functools import cache

import numpy as np

from millstone.core.terms.word_lists import UNSURE

_POSSESSIVE = "'s"
_VOWELS = "aeiou"
_ENDINGS = ("s", "men", "ed", "ing")
"""Of all words that `_regular` says something about, and of possessives."""
_VERBS = ("VERB", "AUX")
_OF_DEGREE = ("ADJ", "ADV")

Lemmas = Mapping[str, Sequence[str]]


def english_lemma(form: str, exceptions: Mapping[str, str]) -> str:
    """The lemma of a form, or the form itself; of a word that the dictionary lacks, what rules make of it, unsure.

    Parameters
    ----------
    form : str
        As written, normalised.
    exceptions : mapping
        Form in small letters -> lemma; they win.

    Notes
    -----
    A form that is a lemma itself stays, with three exceptions: a plural counts as its singular (*things*), a
    participle or past form as its verb (*coming*, *used*), a comparative as its adjective (*lower*). Of several
    lemmas the one that most word classes share counts.
    """
    base = form.removesuffix(_POSSESSIVE)
    # a contraction is two words, of which a lemma would drop one: don't, I'm, it's
    if "'" in base or (base != form and base.lower() in exceptions):
        return form
    word = base.lower()
    if word in exceptions:
        return exceptions[word]
    by_class = _lemmas_of(word)
    if not by_class:
        guesses = list(dict.fromkeys(_regular(word)))
        return UNSURE + " ".join(guesses) if guesses and word.replace("-", "").isalpha() else base
    return _chosen(word, by_class)


def english_lemmas(word: str, universal: str) -> Sequence[str]:
    """The lemmas that a word in small letters has as a part of speech (UPOS), or else as another; none if unknown."""
    by_class = _lemmas_of(word)
    if universal in by_class:
        return by_class[universal]
    return [_chosen(word, by_class)] if by_class else []


def _chosen(word: str, by_class: Lemmas) -> str:
    own = {name for name, lemmas in by_class.items() if word in lemmas}
    # midwife is not a form of mid-wife
    others = [one for lemmas in by_class.values() for one in lemmas if one.replace("-", "") != word]
    if not others:
        return word
    if not own:
        return _commonest(others)
    singular = [one for one in others if word in (f"{one}s", f"{one}es", f"{one[:-1]}ies")]
    if singular:
        return _commonest(singular)
    verbs = [one for name in _VERBS for one in by_class.get(name, ()) if one in others]
    if verbs and own.isdisjoint(_VERBS):
        return _commonest(verbs)
    plain = [one for name in _OF_DEGREE for one in by_class.get(name, ()) if one in others]
    if plain and not {"NOUN", "VERB"} <= own:
        return _commonest(plain)
    return word


def _commonest(lemmas: Sequence[str]) -> str:
    """The one that comes most often; among equals the first."""
    return max(dict.fromkeys(lemmas), key=lemmas.count)


def are_left(words: Sequence[str], exceptions: Mapping[str, str]) -> np.ndarray:
    """(words,) bool: words in small letters that are neither known nor like a regular form of another word."""
    known = _dictionary().keys() | exceptions.keys()
    return np.array([not word.endswith(_ENDINGS) and word not in known for word in words], dtype=bool)


def _regular(word: str) -> Iterator[str]:
    """Lemmas of which a word could be a regular form."""
    if word.endswith("ies") and len(word) > 4:
        yield f"{word[:-3]}y"
    if word.endswith("s") and not word.endswith(("ss", "us", "is")) and len(word) > 3:
        yield word[:-1]
        if word.endswith(("ches", "shes", "sses", "xes", "zes", "oes")):
            yield word[:-2]
    if word.endswith("men") and len(word) > 4:
        yield f"{word[:-2]}an"
    for ending in ("ed", "ing"):
        stem = word.removesuffix(ending)
        if stem != word and len(stem) > 2 and re.search(f"[{_VOWELS}y]", stem):
            yield stem
            yield f"{stem}e"
            if stem[-1] == stem[-2] and stem[-1] not in _VOWELS:
                yield stem[:-1]
            if ending == "ed" and stem.endswith("i"):
                yield f"{stem[:-1]}y"


@cache
def _dictionary() -> Mapping[str, Lemmas]:
    """Form -> part of speech (UPOS) -> lemmas, as written."""
    from lemminflect import config
    from lemminflect.codecs.LemmaLUCodec import LemmaLUCodec
    from lemminflect.codecs.OverridesCodec import OverridesCodec

    found: dict[str, dict[str, Sequence[str]]] = LemmaLUCodec.load(config.lemma_lu_fn)
    for word, by_class in OverridesCodec.load(config.lemma_overrides_fn).items():
        found[word] = {**found.get(word, {}), **by_class}
    return found


def _lemmas_of(word: str) -> Lemmas:
    by_class = _dictionary().get(word, {})
    return {name: [one.lower() for one in lemmas] for name, lemmas in by_class.items()}
