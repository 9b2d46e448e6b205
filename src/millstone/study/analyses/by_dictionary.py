"""Steps that count the categories of a dictionary."""

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

from millstone.core.columns import IN_ORDER, VALIDATION, category_columns, group_columns, renamed, word_columns
from millstone.core.compare.pairs import check_group_names
from millstone.core.corpus.corpus import Corpus, Document, group_sizes
from millstone.core.describe.profile import MEASURES
from millstone.core.dictionary import categories as category_core
from millstone.core.dictionary.check import checked, nearest_words
from millstone.core.dictionary.dictionary import Dictionary
from millstone.core.dictionary.marked_text import MarkedText, marked_texts
from millstone.core.dictionary.matches import Matches, find_matches, needs_order
from millstone.core.dictionary.traces import in_order, word_table
from millstone.core.errors import DataError
from millstone.core.result import Result
from millstone.core.settings.declare import declared, option
from millstone.core.settings.preparation import Preparation
from millstone.core.wording import listed, numbered
from millstone.sources.lists.dictionaries import read_dictionaries
from millstone.sources.lists.word_lists import read_word_lists
from millstone.study.step import Step

# preparation that does not reach a dictionary
_TEXT_RULES = ("drop_repeats", "drop_running", "cut", "mend", "tokens", "min_tokens")
_WORD_RULES = tuple(name for name in declared(Preparation) if name not in _TEXT_RULES)


def dictionary_of(step: Step) -> Dictionary:
    """The dictionaries of a step, joined.

    Raises
    ------
    DataError
    """
    return _read(getattr(step.settings, "validate", ()) or step.settings.dictionary, step.settings.select)


@lru_cache(maxsize=8)
def _read(names: tuple[str, ...], select: tuple[str, ...]) -> Dictionary:
    # asked for before the texts are read, and again when they are counted
    return read_dictionaries(names, select)


def looks_at_order(step: Step) -> bool:
    """Whether the step counts categories for which the order of words must be known."""
    if not (getattr(step.settings, "dictionary", ()) or getattr(step.settings, "validate", ())):
        return False
    return bool(getattr(step.settings, "in_order", "")) or needs_order(dictionary_of(step))


def needs_measures(step: Step) -> bool:
    """Whether measures of the variety of terms are among the values of a contrast."""
    return step.command.name == "contrast" and bool(set(step.settings.values) & set(MEASURES))


def note_idle_rules(step: Step, notes: list[str]) -> None:
    """Say which settings of preparation do not reach a dictionary."""
    idle = [name for name in _WORD_RULES if name in step.typed]
    if idle:
        notes.append(f"{', '.join(map(option, idle))}: no effect on a dictionary's matches")


def note_no_hit(dictionary: Dictionary, matches: Matches, notes: list[str]) -> None:
    """Say when nothing was found at all, and which words of the texts come near."""
    if matches.is_empty:
        near = [f"{entry} is near {word}" for entry, word in nearest_words(dictionary, matches.corpus)]
        notes.append(
            "no entry of the dictionary occurs in these texts"
            + (f" ({listed(near)})" if near else ": check that both are in the same language and spelling")
        )


def categories(step: Step, corpus: Corpus, notes: list[str]) -> Result:
    """Count the categories of a step's dictionary; what the user should know goes to `notes`."""
    settings = step.settings
    dictionary = dictionary_of(step)
    note_idle_rules(step, notes)
    category_core.check_names(dictionary)
    taken = category_core.taken_names(dictionary)
    for given, name in renamed(corpus.documents.columns, () if settings.keep_all else taken).items():
        notes.append(f"the column {given!r} of the texts comes out as {name!r}")
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    check_group_names(sizes, words_needed=False)
    matches = find_matches(corpus, dictionary)
    note_no_hit(dictionary, matches, notes)
    frame = category_core.table_of(matches, dictionary, settings.scale)
    shown, traced = dictionary.shown_categories, dictionary.traced_categories
    scores = {score.name: score.formula for score in dictionary.shown_scores}
    columns = category_columns(shown, settings.scale, scores)
    columns = {name: column for name, column in columns.items() if name in frame.columns}
    result = Result("categories", frame, columns, sizes, step.typed, categories=tuple(traced))
    beside = {}
    if settings.by_group:
        table = category_core.by_group(matches, dictionary, frame, settings.scale)
        beside["by_group"] = replace(result, command="by_group", frame=table, columns=group_columns(settings.scale))
    if settings.words:
        table = word_table(matches, traced)
        beside["words"] = replace(result, command="words", frame=table, columns=word_columns(traced))
    if settings.in_order:
        table = in_order(matches, traced)
        beside["in_order"] = replace(result, command="in_order", frame=table, columns=IN_ORDER)
    return replace(result, beside=beside)


def validation(step: Step, corpus: Corpus, notes: list[str]) -> Result:
    """What is odd about the step's dictionary; with texts, what its entries catch there.

    Raises
    ------
    DataError
        Under ``--strict``, when something was found.
    """
    dictionary = dictionary_of(step)
    entries = sum(map(len, dictionary.categories.values()))
    # function words are no news
    passed_over = [word for one in read_word_lists(step.preparation).stop for word in one.entries]
    frame = checked(dictionary, corpus if step.inputs.input else None, passed_over)
    odd = int((frame["finding"] != "").sum() - (frame["category"] == "").sum())
    size = (
        f"{numbered(entries, 'entry', 'entries')} in {numbered(len(dictionary.categories), 'category', 'categories')}"
    )
    notes.append(f"{size}: {numbered(odd, 'is', 'are') if odd else 'none is'} odd")
    if odd and step.work.strict:
        first = frame[frame["finding"] != ""].iloc[0]
        raise DataError(
            f"{first['where']}: {first['entry'] or first['category']}: {first['finding']}"
            + (f" ({odd - 1} more)" if odd > 1 else ""),
            "mend the dictionary, or leave --strict out",
        )
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    columns = {name: VALIDATION[name] for name in frame.columns}
    return Result("validation", frame, columns, sizes, step.typed)


def marked_of(step: Step, corpus: Corpus, documents: Sequence[Document]) -> list[MarkedText]:
    """The texts with what the step's dictionary counts in them; `corpus` is an ordered scan of them."""
    dictionary = dictionary_of(step)
    return marked_texts(find_matches(corpus, dictionary), dictionary.traced_categories, documents)
