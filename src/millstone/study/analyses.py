"""From a scanned corpus to the result of a command: read settings, call the core, name the columns."""

from collections.abc import Callable
from typing import Any

import pandas as pd

from millstone.core import categories as category_core
from millstone.core.columns import COLUMNS, category_columns
from millstone.core.comparisons import check_group_names
from millstone.core.corpus import Corpus, group_sizes
from millstone.core.counts import Counts, count
from millstone.core.declare import declared, nearest, option
from millstone.core.lists import WordLists, entries_of_several_words
from millstone.core.phrases import with_phrases
from millstone.core.result import Result
from millstone.core.settings import Preparation
from millstone.core.terms import TermMap, map_terms
from millstone.sources.dictionaries import read_dictionaries
from millstone.sources.wordlists import read_phrases, read_word_lists
from millstone.study.model import Step

# preparation that does not reach a dictionary
_TEXT_RULES = ("drop_repeats", "drop_running", "cut", "mend", "tokens", "min_tokens")
_WORD_RULES = tuple(name for name in declared(Preparation) if name not in _TEXT_RULES)
_NEAREST_AMONG = 20_000


def analyse(step: Step, corpus: Corpus, notes: list[str]) -> Result:
    """Carry out the analysis of a step on its corpus; what the user should know goes to `notes`."""
    if step.command.name == "categories":
        return _categories(step, corpus, notes)
    counts = _count(step, corpus, notes)
    frame = _term_analysis(step.command.name)(counts, step.settings)
    check_group_names(counts.sizes, words_needed=False)
    if frame.empty:
        notes.append("no term is left to show: the settings leave all of them out")
    return Result(
        step.command.name,
        frame,
        {name: COLUMNS[name] for name in frame.columns},
        counts.sizes,
        step.typed,
        counts.left_out,
    )


def _term_analysis(name: str) -> Callable[[Counts, Any], pd.DataFrame]:
    """The analysis of a command; imported when it is used, for some take long to import."""
    if name == "keyness":
        from millstone.core.keyness import keyness

        return keyness
    if name == "logodds":
        from millstone.core.logodds import log_odds

        return log_odds
    from millstone.core.frequency import frequency_list

    return frequency_list


def _count(step: Step, corpus: Corpus, notes: list[str]) -> Counts:
    lists = read_word_lists(step.preparation)
    corpus = with_phrases(corpus, read_phrases(step.preparation.phrases), step.preparation.case)
    term_map = map_terms(corpus, step.preparation, lists)
    _note_entries(step, lists, term_map, notes)
    counts = count(corpus, term_map, step.preparation.base)
    lone = [size.name for size in counts.sizes if size.documents == 1]
    if lone and step.command.name != "logodds":
        dispersion = "dp is empty" if step.command.name == "freq" else "no check by documents is possible"
        notes.append(f"one document only in {', '.join(lone)}: {dispersion}")
    return counts


def _note_entries(step: Step, lists: WordLists, term_map: TermMap, notes: list[str]) -> None:
    for stop_list in lists.stop:
        several = [] if step.preparation.phrases else entries_of_several_words(stop_list)
        if several:
            notes.append(
                f"stop list {stop_list.name}: {_entries(len(several))} of several words, such as {several[0]!r}: "
                "no single word is left out by it"
            )
    for name, missing in term_map.idle.items():
        known = {value for stage in term_map.stages for value in stage.values}
        near = nearest(missing[0], known) if len(known) < _NEAREST_AMONG else ""
        verb = "fits" if len(missing) == 1 else "fit"
        shown = ", ".join(map(repr, missing[:3])) + (", ..." if len(missing) > 3 else "")
        notes.append(f"{name}: {_entries(len(missing))} {verb} no word of the texts: {shown}{near}")


def _entries(number: int) -> str:
    return "1 entry" if number == 1 else f"{number:,} entries"


def _categories(step: Step, corpus: Corpus, notes: list[str]) -> Result:
    dictionary = read_dictionaries(step.settings.dictionary)
    idle = [name for name in _WORD_RULES if name in step.typed]
    if idle:
        notes.append(f"{', '.join(map(option, idle))}: no effect on a dictionary's matches")
    for given, name in category_core.renamed(list(corpus.documents.columns), dictionary.names()).items():
        notes.append(f"the column {given!r} of the texts comes out as {name!r}")
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    check_group_names(sizes, words_needed=False)
    frame = category_core.categories(corpus, dictionary, step.settings)
    columns = category_columns(dictionary.names(), step.settings.scale)
    columns = {name: column for name, column in columns.items() if name in frame.columns}
    return Result("categories", frame, columns, sizes, step.typed)
