"""Categories of a dictionary, counted in each document."""

from collections.abc import Collection, Mapping
from pathlib import Path

from millstone.analyses.base.aligned_table import by_row
from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.matches.dictionary_input import (
    check_dictionary,
    counts_punctuation,
    dictionary_of,
    has_order,
    note_idle_rules,
    note_no_hit,
)
from millstone.analyses.base.step import Step
from millstone.analyses.categories.compute import by_group, check_names, table_of, taken_names
from millstone.analyses.categories.marking import marked_texts_of
from millstone.analyses.categories.schema import by_group as by_group_schema
from millstone.analyses.categories.schema import in_order as in_order_schema
from millstone.analyses.categories.schema import schema, validation, words
from millstone.analyses.categories.settings import CategorySettings
from millstone.analyses.categories.validation import checked
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import numbered
from millstone.core.corpus.corpus import group_sizes
from millstone.core.corpus.group_names import check_group_names
from millstone.core.dictionary.marked_text import MarkedTexts
from millstone.core.dictionary.matches import find_matches
from millstone.core.dictionary.traces import in_order, word_table
from millstone.core.settings.declare import option
from millstone.core.tables.columns import renamed
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.outputs.files.writing import Outputs
from millstone.texts.inputs.lists.word_lists import read_word_lists
from millstone.texts.scanned_texts import ScannedTexts

_COUNTING = ("by_group", "words", "in_order", "marked")


class CategoriesAnalysis(Analysis[CategorySettings]):
    """Categories of a dictionary, counted in each document."""

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def further_schemas(self) -> tuple[Schema, ...]:
        """The schemas of its further tables."""
        return (in_order_schema(), validation())

    def saved_schema(self, names: Collection[str], settings: Mapping[str, object]) -> Schema:
        """The schema of a saved table: its categories stand after the fixed columns."""
        every = list(names)
        after = every[every.index("matched_percent") + 1 :] if "matched_percent" in every else []
        return schema(after, str(settings.get("scale", "percent")))

    def columns(self, step: Step[CategorySettings]) -> Collection[str]:
        """None: they depend on the texts."""
        return ()

    def validate_settings(self, step: Step[CategorySettings]) -> Step[CategorySettings]:
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
            step = by_row(step)
        step.require_input()
        if not settings.dictionary:
            raise UsageError("categories needs a dictionary", "type --dictionary FILE.toml")
        return step

    def check(self, step: Step[CategorySettings], made: Collection[Path]) -> None:
        """The dictionary can be read."""
        check_dictionary(step, made)

    def sees_punctuation(self, step: Step[CategorySettings]) -> bool:
        """Whether an entry of the dictionary is punctuation."""
        return counts_punctuation(step)

    def needs_token_order(self, step: Step[CategorySettings]) -> bool:
        """Whether words are listed in their order, or an entry has several of them."""
        return bool(step.settings.in_order) or has_order(step)

    def analyse(
        self, step: Step[CategorySettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The categories of each document, and the further tables that are asked for."""
        if step.settings.validate:
            return _validation(step, material, notes)

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
        made = schema(shown, settings.scale, scores)
        columns = {name: column for name, column in made.by_name.items() if name in of_documents}
        result = Result("categories", of_documents, columns, sizes, step.typed, schema=made)
        if settings.by_group:
            table, grouped = (
                by_group(matches, dictionary, of_documents, settings.scale),
                by_group_schema(settings.scale),
            )
            result = result.with_table("by_group", table, grouped.by_name, grouped)
        if settings.words:
            listed = words(traced)
            result = result.with_table("words", word_table(matches, traced), listed.by_name, listed)
        if settings.in_order:
            result = result.with_table("in_order", in_order(matches, traced), in_order_schema().by_name)
        return result

    def mark(self, step: Step[CategorySettings], outputs: Outputs, progress: DrawProgress) -> MarkedTexts | None:
        """The texts with what was counted in them."""
        return marked_texts_of(step, outputs, progress)

    def appends_to_input_table(self, step: Step[CategorySettings]) -> bool:
        """Whether results are appended to the input table (--keep-all)."""
        return bool(step.settings.keep_all)


def _validation(step: Step[CategorySettings], material: ScannedTexts, notes: list[str]) -> Result:
    """The odd entries of the step's dictionary; with texts, what each catches there.

    Raises
    ------
    DataError
        Under ``--strict``, when something was found.
    """

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
    columns = validation().of_table(table.names)
    return Result("validation", table, columns, sizes, step.typed, schema=validation())


ANALYSIS = CategoriesAnalysis()
