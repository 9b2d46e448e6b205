"""The dictionary of a step: read, and what is to be said of it."""

from collections.abc import Collection, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any

from millstone.analyses.base.step import Step
from millstone.analyses.categories.validation import nearest_words
from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed
from millstone.core.dictionary.dictionary import Dictionary
from millstone.core.dictionary.matches import DictionaryMatches, needs_order
from millstone.core.settings.declare import declared, option
from millstone.core.settings.preparation import Preparation
from millstone.texts.inputs.lists.dictionaries import read_dictionaries, ships

# preparation that does not reach a dictionary
_TEXT_RULES = (
    *("drop_repeats", "drop_near_duplicates", "keep", "drop_running", "cut", "mend", "tokens", "tag", "min_tokens"),
    *("around", "around_span"),
)
# the commands that count entries of punctuation
_COUNT_PUNCTUATION = ("categories", "contrast")
_WORD_RULES = tuple(name for name in declared(Preparation) if name not in _TEXT_RULES)


def dictionary_of(step: Step[Any]) -> Dictionary:
    """The dictionaries of a step, joined.

    Raises
    ------
    DataError
        When it cannot be read, or has entries of punctuation that are not counted.
    """
    files = step.settings.dictionaries
    # a step of a study may make the dictionary of a later one anew
    stamps = tuple(path.stat().st_mtime_ns for path in map(Path, files) if path.exists())
    columns = step.settings.category_column, step.settings.entry_column
    dictionary = _read(files, step.settings.select, stamps, step.preparation.tokens, columns)
    if step.inputs.input:
        _check_punctuation(step, dictionary)
    return dictionary


@lru_cache(maxsize=8)
def _read(
    names: tuple[str, ...], select: tuple[str, ...], stamps: tuple[int, ...], rule: str, columns: tuple[str, str]
) -> Dictionary:
    # asked for before the texts are read, and again when they are counted
    return read_dictionaries(names, select, *columns).under(rule)


def _check_punctuation(step: Step[Any], dictionary: Dictionary) -> None:
    """Raise DataError for an entry of punctuation in a step that counts words only."""
    entry = next(iter(dictionary.punctuation()), None)
    if entry is None or (step.command.name in _COUNT_PUNCTUATION and step.preparation.punctuation == "keep"):
        return
    counted = step.command.name in _COUNT_PUNCTUATION
    raise DataError(
        f"{entry.where}: the entry {entry.text!r} is punctuation, and {step.command.name} "
        + ("drops it" if counted else "looks at words only"),
        "type --punctuation keep, or remove the entry"
        if counted
        else f"remove the entry; {' and '.join(_COUNT_PUNCTUATION)} count it, with --punctuation keep",
    )


def counts_punctuation(step: Step[Any]) -> bool:
    """Whether the dictionary of a step has entries of punctuation, or is one that is not there yet."""
    files = step.settings.dictionaries
    if step.preparation.punctuation != "keep" or not files:
        return False
    return not _are_there(files) or bool(dictionary_of(step).punctuation())


def _are_there(files: Sequence[str]) -> bool:
    return all(ships(name) or Path(name).is_file() for name in files)


def check_dictionary(step: Step[Any], made: Collection[Path]) -> None:
    """Read the dictionary of a step, if it has one, unless an earlier step is going to make it.

    Raises
    ------
    DataError
    """
    files = step.settings.dictionaries
    if files and not any(Path(name).resolve() in made for name in files):
        dictionary_of(step)


def has_order(step: Step[Any]) -> bool:
    """Whether the step has a dictionary for which the order of words must be known, or one that is not there yet."""
    files = step.settings.dictionaries
    return bool(files) and (not _are_there(files) or needs_order(dictionary_of(step)))


def note_idle_rules(step: Step[Any], notes: list[str]) -> None:
    """Say which settings of preparation do not reach a dictionary."""
    counted = {"punctuation"} if counts_punctuation(step) else set()
    idle = [name for name in _WORD_RULES if name in step.typed and name not in counted]
    if idle:
        notes.append(f"{', '.join(map(option, idle))}: no effect on a dictionary's matches")


def note_no_hit(dictionary: Dictionary, matches: DictionaryMatches, notes: list[str]) -> None:
    """Say when nothing was found at all, and which words of the texts come near."""
    if matches.is_empty:
        near = [f"{entry} is near {word}" for entry, word in nearest_words(dictionary, matches.corpus)]
        notes.append(
            "no entry of the dictionary occurs in these texts"
            + (f" ({listed(near)})" if near else ": check that both are in the same language and spelling")
        )
