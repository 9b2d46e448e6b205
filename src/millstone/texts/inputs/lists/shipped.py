"""The lists that ship with millstone and its libraries: stop lists with their classes, lemmas, stemmers."""

import tomllib
from collections.abc import Iterator, Mapping
from importlib import resources

from millstone.core.base.errors import DataError
from millstone.core.terms.word_lists import UNSURE
from millstone.texts.inputs.lists.languages import check_code
from millstone.texts.inputs.lists.lemmas import exceptions, lemma_codes, of_language, stemmer_codes
from millstone.texts.inputs.lists.own_lists import folder_of_lists, own_lists
from millstone.texts.inputs.lists.word_lists import OWN_STOP_LIST, read_stop_list, stop_list_codes


def what_ships() -> Iterator[tuple[str, str]]:
    """Kind and names of the lists that an option can name, one's own last."""
    yield "stop lists", ", ".join(stop_list_codes())
    classes = tomllib.loads(resources.files("millstone.data").joinpath("stop_en.toml").read_text("utf-8"))
    yield "classes", ", ".join(f"{OWN_STOP_LIST}:{name}" for name in classes)
    yield "lemmas", ", ".join(lemma_codes())
    yield "stems", ", ".join(stemmer_codes())
    mine = own_lists()
    yield "of your own", ", ".join(mine) if mine else f"none; NAME.txt in {folder_of_lists()} is --stop NAME"


def stop_words(name: str) -> list[tuple[str, str]]:
    """The words of a stop list, or of a class of it, or of a list of one's own, each with its class ("" for none).

    Raises
    ------
    DataError
        For a list that does not exist.
    """
    found = read_stop_list(name)
    return [(word, found.classes.get(word, name.partition(":")[2])) for word in found.entries]


def forms_of(code: str, word: str) -> list[tuple[str, str]]:
    """The forms that count as a lemma, or the lemma that a form counts as: form and lemma of each.

    Raises
    ------
    DataError
        For a language without lemmas, or a word that has neither.
    """
    check_code(
        code, lemma_codes(), "words lemmas", "there are no lemmas for", f"there are {', '.join(lemma_codes())}"
    )
    lemma_of = of_language(code)
    candidates = {word, *(form for form, lemma in exceptions(code).items() if lemma == word)}
    candidates |= set(_inflected(word) if code == "en" else _by_dictionary(code, word))
    forms = {form: lemma for form in candidates if (lemma := lemma_of(form))}
    found = sorted((form, lemma) for form, lemma in forms.items() if lemma == word)
    if not found and word in forms:
        found = [(word, forms[word].removeprefix(UNSURE))]
    if not found:
        raise DataError(f"words lemmas {code}: {word!r} is not known", "check the spelling, or the language")
    return found


def _inflected(lemma: str) -> Iterator[str]:
    from lemminflect import getAllInflections

    for forms in getAllInflections(lemma).values():
        yield from forms


def _by_dictionary(code: str, lemma: str) -> Iterator[str]:
    from simplemma.strategies.dictionaries.dictionary_factory import DefaultDictionaryFactory

    found: Mapping[str, str] = DefaultDictionaryFactory().get_dictionary(code)
    yield from (form for form, one in found.items() if one == lemma)
