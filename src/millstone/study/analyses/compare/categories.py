"""Categories of a dictionary, counted in each document."""

from collections.abc import Collection
from typing import TYPE_CHECKING

from millstone.charts.settings import ChartSettings
from millstone.core.errors import DataError, UsageError
from millstone.core.layout import Layout
from millstone.core.settings.analyses import CategorySettings
from millstone.core.settings.declare import option
from millstone.study.command import Command

if TYPE_CHECKING:
    from pathlib import Path

    from millstone.charts.draw import Figures
    from millstone.core.corpus.corpus import Corpus
    from millstone.core.dictionary.marked_text import MarkedTexts
    from millstone.core.result import Result
    from millstone.results.writing import Outputs
    from millstone.study.command import Behind, Drawing
    from millstone.study.reading.origin import Origin
    from millstone.study.step import Step
    from millstone.study.texts.material import Material


_COUNTING = ("by_group", "words", "in_order", "marked")


def settle(step: "Step") -> "Step":
    """A dictionary is counted, or looked at for what is odd about it."""
    settings: CategorySettings = step.settings
    if settings.validate:
        if asked := next((name for name in _COUNTING if getattr(settings, name)), ""):
            raise UsageError(
                f"--validate counts nothing, and {option(asked)} is made of what is counted",
                f"leave {option(asked)} out, or type --dictionary in place of --validate",
            )
        return step
    if settings.keep_all:
        from millstone.study.texts.aligned_table import by_row

        step = by_row(step)
    step.require_input()
    if not settings.dictionary:
        raise UsageError("categories needs a dictionary", "type --dictionary FILE.toml")
    return step


def check(step: "Step", made: "Collection[Path]") -> None:
    """The dictionary can be read."""
    from millstone.study.texts.dictionary_input import check_dictionary

    check_dictionary(step, made)


def looks_at_order(step: "Step") -> bool:
    """Whether words are listed in their order, or an entry has several of them."""
    from millstone.study.texts.dictionary_input import has_order

    return bool(step.settings.in_order) or has_order(step)


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The categories of each document, and the further tables that are asked for."""
    if step.settings.validate:
        return _validation(step, material, notes)
    from millstone.core.columns import IN_ORDER, category_columns, group_columns, renamed, word_columns
    from millstone.core.compare.pairs import check_group_names
    from millstone.core.corpus.corpus import group_sizes
    from millstone.core.dictionary.categories import by_group, check_names, table_of, taken_names
    from millstone.core.dictionary.matches import find_matches
    from millstone.core.dictionary.traces import in_order, word_table
    from millstone.core.result import Result
    from millstone.study.texts.dictionary_input import dictionary_of, note_idle_rules, note_no_hit

    corpus = material.corpus
    settings = step.settings
    dictionary = dictionary_of(step)
    note_idle_rules(step, notes)
    check_names(dictionary)
    taken = taken_names(dictionary)
    for given, name in renamed(corpus.documents.names, () if settings.keep_all else taken).items():
        notes.append(f"the column {given!r} of the texts was renamed to {name!r}")
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    check_group_names(sizes, words_needed=False)
    matches = find_matches(corpus, dictionary)
    note_no_hit(dictionary, matches, notes)
    of_documents = table_of(matches, dictionary, settings.scale)
    shown, traced = dictionary.shown_categories, dictionary.traced_categories
    scores = {score.name: score.formula for score in dictionary.shown_scores}
    columns = category_columns(shown, settings.scale, scores)
    columns = {name: column for name, column in columns.items() if name in of_documents}
    result = Result("categories", of_documents, columns, sizes, step.typed, layout=step.command.layout)
    if settings.by_group:
        table = by_group(matches, dictionary, of_documents, settings.scale)
        result = result.with_table("by_group", table, group_columns(settings.scale))
    if settings.words:
        result = result.with_table("words", word_table(matches, traced), word_columns(traced))
    if settings.in_order:
        result = result.with_table("in_order", in_order(matches, traced), IN_ORDER)
    return result


def _validation(step: "Step", material: "Material", notes: list[str]) -> "Result":
    """What is odd about the step's dictionary; with texts, what its entries catch there.

    Raises
    ------
    DataError
        Under ``--strict``, when something was found.
    """
    from millstone.core.columns import VALIDATION
    from millstone.core.corpus.corpus import group_sizes
    from millstone.core.dictionary.check import checked
    from millstone.core.result import Result
    from millstone.core.wording import numbered
    from millstone.sources.lists.word_lists import read_word_lists
    from millstone.study.texts.dictionary_input import dictionary_of

    corpus = material.corpus
    dictionary = dictionary_of(step)
    entries = sum(map(len, dictionary.categories.values()))
    # function words are common anyway
    passed_over = [word for one in read_word_lists(step.preparation).stop for word in one.entries]
    table = checked(dictionary, corpus if step.inputs.input else None, passed_over)
    odd = int((table["finding"] != "").sum() - (table["category"] == "").sum())
    size = (
        f"{numbered(entries, 'entry', 'entries')} in {numbered(len(dictionary.categories), 'category', 'categories')}"
    )
    notes.append(f"{size}: {numbered(odd, 'is', 'are') if odd else 'none is'} odd")
    if odd and step.work.strict:
        first = next(row for row in table.rows() if row["finding"])
        raise DataError(
            f"{first['where']}: {first['entry'] or first['category']}: {first['finding']}"
            + (f" ({odd - 1} more)" if odd > 1 else ""),
            "fix the dictionary, or leave --strict out",
        )
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    columns = {name: VALIDATION[name] for name in table.names}
    return Result("validation", table, columns, sizes, step.typed, layout=_ODDITIES)


def places_of(origin: "Origin", corpus: "Corpus") -> "Behind":
    """The places of the category that ``--select`` names in the document of a row."""
    import numpy as np

    from millstone.core.dictionary.matches import find_matches
    from millstone.core.reading.places import Spans, documents_of
    from millstone.study.reading.tokens import tokens_left
    from millstone.study.texts.dictionary_input import dictionary_of

    dictionary = dictionary_of(origin.step)
    names = [name for name in origin.select if name in dictionary.names()]
    if len(names) != 1:
        raise UsageError(
            "--from: a row of categories has a number for each category", "choose one with --select CATEGORY"
        )
    tokens, row = tokens_left(origin.step, corpus), origin.rows.iloc[0]
    found = find_matches(tokens.corpus, dictionary).places(names[0])
    places = tokens.as_written(Spans(found.start, found.length))
    same = (corpus.documents["document"] == str(row["document"])) & (corpus.documents["group"] == str(row["group"]))
    return places.at(np.flatnonzero(same[documents_of(corpus, places)])), {}


def mark(step: "Step", outputs: "Outputs", progress: "Drawing") -> "MarkedTexts | None":
    """The texts with what was counted in them."""
    from millstone.study.texts import marking

    return marking.mark(step, outputs, progress)


def figures(result: str) -> "Figures":
    """The figures of its table."""
    from millstone.charts.figures import categories

    return {"means": categories.draw} if result == "categories" else {}


# a note says so where nothing is odd
_ODDITIES = Layout(leaving=("hits", "category"), empty="")
COMMAND = Command(
    "categories",
    "dictionary categories, per document",
    CategorySettings,
    ChartSettings,
    "A place is a match of an entry; the longest match counts, and a place counts once in a category.\n"
    "matched_percent is the share of tokens that any category covers. Stop lists and the other word rules\n"
    "never apply to a dictionary.",
    (
        "categories guestbook.csv --text entry --id entry_id --group hut --dictionary dictionary.toml",
        "categories journals --dictionary dictionary.toml --scale per_thousand -o journals.csv",
        "categories guestbook.csv --text entry --group hut --dictionary dictionary.toml --chart huts.png",
        "categories journals --dictionary dictionary.toml --select weather --marked weather.html",
    ),
    analyse,
    layout=Layout(
        marks=("document", "group", "tokens", "matched_percent"),
        drawn=("document", "group", "tokens", "matched_percent"),
    ),
    places_of=places_of,
    figures=figures,
    mark=mark,
    settle=settle,
    check=check,
    looks_at_order=looks_at_order,
    keeps_rows=lambda step: bool(step.settings.keep_all),
    files={"marked": (".html",)},
    tables=("by_group", "words", "in_order"),
    of_plain_words=True,
)
