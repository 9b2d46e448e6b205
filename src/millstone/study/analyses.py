"""From a scanned corpus to the result of a command: read settings, call the core, name the columns."""

from millstone.core import categories as category_core
from millstone.core.columns import COLUMNS, category_columns
from millstone.core.comparisons import check_group_names
from millstone.core.corpus import Corpus, group_sizes
from millstone.core.counts import Counts, count
from millstone.core.frequency import frequency_list
from millstone.core.keyness import keyness
from millstone.core.logodds import log_odds
from millstone.core.result import Result
from millstone.core.terms import entries_of_several_words, map_terms
from millstone.sources.wordlists import read_dictionaries, read_stop_list
from millstone.study.model import Step

TERM_ANALYSES = {"freq": frequency_list, "keyness": keyness, "logodds": log_odds}
_WORD_RULES = ("stop", "length", "case")


def analyse(step: Step, corpus: Corpus, notes: list[str]) -> Result:
    """Carry out the analysis of a step on its corpus; what the user should know goes to `notes`."""
    if step.command.name == "categories":
        return _categories(step, corpus, notes)
    counts = _count(step, corpus, notes)
    frame = TERM_ANALYSES[step.command.name](counts, step.settings)
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


def _count(step: Step, corpus: Corpus, notes: list[str]) -> Counts:
    stop_lists = [read_stop_list(name) for name in step.preparation.stop]
    for stop_list in stop_lists:
        several = entries_of_several_words(stop_list)
        if several:
            entries = "1 entry" if len(several) == 1 else f"{len(several)} entries"
            notes.append(
                f"stop list {stop_list.name}: {entries} of several words, such as {several[0]!r}: "
                "no single word is left out by it"
            )
    counts = count(corpus, map_terms(corpus.forms, step.preparation, stop_lists))
    lone = [size.name for size in counts.sizes if size.documents == 1]
    if lone and step.command.name != "logodds":
        dispersion = "dp is empty" if step.command.name == "freq" else "no check by documents is possible"
        notes.append(f"one document only in {', '.join(lone)}: {dispersion}")
    return counts


def _categories(step: Step, corpus: Corpus, notes: list[str]) -> Result:
    dictionary = read_dictionaries(step.settings.dictionary)
    idle = [name for name in _WORD_RULES if name in step.typed]
    if idle:
        notes.append(f"{', '.join('--' + name for name in idle)}: no effect on a dictionary's matches")
    for given, name in category_core.renamed(list(corpus.documents.columns), dictionary.names()).items():
        notes.append(f"the column {given!r} of the texts comes out as {name!r}")
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    check_group_names(sizes, words_needed=False)
    frame = category_core.categories(corpus, dictionary, step.settings)
    columns = category_columns(dictionary.names(), step.settings.scale)
    return Result("categories", frame, columns, sizes, step.typed)
