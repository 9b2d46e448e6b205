"""Lemmas and stems: the data of general packages, millstone's own exceptions, the user's tables."""

import tomllib
from collections.abc import Callable, Mapping
from functools import cache
from importlib import metadata, resources
from pathlib import Path

from millstone.core.base.version import VERSION
from millstone.core.settings.kinds import looks_like_path
from millstone.core.settings.preparation import GIVEN
from millstone.core.terms.word_lists import UNSURE, Lemmas, as_word
from millstone.core.tokenise.words import fold_case
from millstone.texts.inputs.lists.english_lemmas import are_left, english_lemma
from millstone.texts.inputs.lists.languages import CODES, check_code

# where nouns have capitals, a capital says nothing about names
_CAPITAL_NOUNS = ("de", "lb")
# stemmers that go by another code than their language elsewhere
_STEMMERS = {"norwegian": "no"}


def lemmas_from(name: str, read_table: Callable[[str], Mapping[str, str]]) -> Lemmas:
    """Where lemmas come from: a language code, ``given``, or a table that `read_table` reads.

    Raises
    ------
    DataError
        For a language that is not known.
    """
    if name == GIVEN:
        return Lemmas(name, lambda form: None)
    if looks_like_path(name):
        table = {as_word(form): lemma for form, lemma in read_table(name).items()}
        return Lemmas(Path(name).name, lambda form: table.get(fold_case(form)))
    lemma_of = of_language(name)
    package = metadata.version("lemminflect" if name == "en" else "simplemma")
    return Lemmas(
        name,
        lemma_of,
        spare_names=name not in _CAPITAL_NOUNS,
        version=f"{package} {VERSION} {sorted(exceptions(name).items())}",
        pronouns=_pronouns(name) - {"i"},
        irregular=frozenset(exceptions(name)),
        leaves=(lambda words: are_left(words, exceptions(name))) if name == "en" else None,
    )


def of_language(code: str) -> Callable[[str], str | None]:
    """A function that gives the lemma of a form of a language, None for one that is not known."""
    own = exceptions(code)
    look_up = _english if code == "en" else _by_dictionary(code)

    def lemma_of(form: str) -> str:
        # numbers, years and scores have no lemma
        if any(map(str.isdecimal, form)):
            return form
        return own.get(form.lower()) or look_up(form)

    return lemma_of


def _english(form: str) -> str:
    return english_lemma(form, exceptions("en"))


def _by_dictionary(code: str) -> Callable[[str], str]:
    """The lemmas of a general package; one that a rule made is unsure unless the dictionary has it as a word."""
    from simplemma import is_known, lemmatize

    known = lemma_codes()
    remedy = f"there are {', '.join(known)}; for a table of yours type ./{code}"
    check_code(code, known, "--lemmas", "there are no lemmas for", remedy)

    def lemma_of(form: str) -> str:
        asked = form.lower() if form.isupper() else form
        lemma = str(lemmatize(asked, lang=code))
        if lemma == asked or is_known(asked, lang=code) or is_known(lemma, lang=code):
            return lemma
        return UNSURE + lemma

    return lemma_of


def lemma_codes() -> list[str]:
    """The languages that have lemmas."""
    from simplemma.strategies.dictionaries.dictionary_factory import SUPPORTED_LANGUAGES

    return sorted({"en", *SUPPORTED_LANGUAGES})


def _pronouns(code: str) -> frozenset[str]:
    data = resources.files("millstone.data")
    if code == "en":
        return frozenset(tomllib.loads(data.joinpath("stop_en.toml").read_text("utf-8"))["pronouns"])
    return frozenset(tomllib.loads(data.joinpath("pronouns.toml").read_text("utf-8")).get(code, ()))


@cache
def exceptions(code: str) -> dict[str, str]:
    """Millstone's own table for a language, form -> lemma; empty where there is none."""
    file = resources.files("millstone.data").joinpath(f"lemmas_{code}.toml")
    if not file.is_file():
        return {}
    content = tomllib.loads(file.read_text("utf-8"))
    unchanged = {form: form for form in content["unchanged"]}
    return {**unchanged, **{form: lemma for lemma, forms in content["forms"].items() for form in forms}}


def stemmer(code: str) -> Callable[[str], str]:
    """The Snowball stemmer of a language (Porter 2001).

    Raises
    ------
    DataError
        For a language that has none.
    """
    import snowballstemmer

    languages = _stemmers()
    remedy = f"there are stemmers for {', '.join(sorted(languages))}"
    check_code(code, languages, "--stem", "there is no stemmer for", remedy)
    stem: Callable[[str], str] = snowballstemmer.stemmer(languages[code]).stemWord
    return stem


def stemmer_codes() -> list[str]:
    """The languages that have a stemmer."""
    return sorted(_stemmers())


def _stemmers() -> dict[str, str]:
    """Code of a language -> the name of its stemmer."""
    import snowballstemmer

    codes = {name: _STEMMERS.get(name, CODES.get(name, "")) for name in snowballstemmer.algorithms()}
    return {known: name for name, known in codes.items() if known}
