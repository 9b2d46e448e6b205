"""Results whose tables are made of counts of terms."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Any

from millstone.analyses.base.analysis import analysis_of, texts_of
from millstone.analyses.base.groups.notes import TakeNote
from millstone.analyses.base.step import Step
from millstone.core.base.wording import listed
from millstone.core.corpus.group_names import check_group_names
from millstone.core.tables.columns import Column
from millstone.core.tables.result import Result, size_in_words
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.term_counts import TermCounts, count_texts


def counted_terms(step: Step[Any], material: ScannedTexts, notes: list[str]) -> TermCounts:
    """Prepare the texts of a step and count their terms; what the user should know goes to `notes`."""
    return count_texts(texts_of(step), material, notes)


def noted_table(terms: TermCounts, analysis: Callable[[Counts, TakeNote], Table], notes: list[str]) -> Table:
    """The table of an analysis of each size of n-grams; `notes` receives what it says, with the sizes."""
    said: dict[int, list[str]] = {}

    def of_counts(counts: Counts) -> Table:
        own = said.setdefault(next(n for n, one in terms.counted.items() if one is counts), [])
        return analysis(counts, own.append)

    made = terms.table(of_counts)
    notes.extend(_by_size(said))
    return made


def _by_size(said: Mapping[int, Sequence[str]]) -> Iterator[str]:
    """The notes of each size of n-grams; what is said of all of them once."""
    for note in dict.fromkeys(note for notes in said.values() for note in notes):
        sizes = [n for n, notes in said.items() if note in notes]
        yield note if len(sizes) == len(said) else f"{listed(map(size_in_words, sizes))}: {note}"


def result_of_terms(step: Step[Any], terms: TermCounts, table: Table, notes: list[str]) -> Result:
    """The result whose table was made of counts."""
    sizes = terms.sizes
    check_group_names(sizes, words_needed=False)
    if not len(table):
        one = "value" if step.counted.count_field else "term"
        notes.append(f"no {one} is left to show: the settings leave all of them out")
    what = "values" if step.counted.count_field else "terms" if terms.counted.keys() == {1} else "ngrams"
    schema = analysis_of(step).schema()
    columns = _columns_of(schema, table.names, what)
    return Result(step.command.name, table, columns, sizes, step.typed, terms.left_out, schema=schema)


# what is counted besides terms: what its rates are of, and what a row is
_COUNTED = {
    "ngrams": ("per million n-gram places", "the n-gram: its words as they were counted, after preparation"),
    "values": ("per million documents", "a value of the field that was counted"),
}


def _columns_of(schema: Schema, names: Iterable[str], what: str) -> dict[str, Column]:
    """The columns of a table of ``terms``; of ``ngrams`` rates are of their places, of ``values`` of documents."""
    found = schema.of_table(names)
    if what != "terms":
        unit, meaning = _COUNTED[what]
        found |= {name: one.having(unit=unit) for name, one in found.items() if "per_million" in name}
        if "term" in found:
            found["term"] = found["term"].having(meaning=meaning, title="value" if what == "values" else "term")
    return found
