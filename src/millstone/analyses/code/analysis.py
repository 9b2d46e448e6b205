"""Code: a sheet on which coders say what a category ought to count."""

import re
from collections.abc import Collection, Sequence
from dataclasses import replace
from pathlib import Path
from string import ascii_uppercase

import numpy as np

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.matches.dictionary_input import check_dictionary, dictionary_of, note_no_hit
from millstone.analyses.base.reading import material_of
from millstone.analyses.base.step import Step
from millstone.analyses.code.sample import Strata, coders_of, drawn_units, entries_of, strata_of
from millstone.analyses.code.schema import schema
from millstone.analyses.code.settings import CodeSettings
from millstone.analyses.concordance.contexts import cut_lines
from millstone.analyses.concordance.lines import Lines
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import listed, numbered
from millstone.core.coding.sealed import Sealed, SealedUnit, names_of_units
from millstone.core.corpus.corpus import Corpus, group_sizes
from millstone.core.corpus.corpus_units import cut_corpus
from millstone.core.dictionary.dictionary import Dictionary
from millstone.core.dictionary.matches import DictionaryMatches, find_matches
from millstone.core.matches.matches import Matches, documents_of
from millstone.core.settings.inputs import Unit
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table
from millstone.outputs.files.sealing import packed
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.scans import Scans

_LONG = 100
_SIGNS = re.compile(r"[^\w\s]+")


class CodeAnalysis(Analysis[CodeSettings]):
    """Code: a sheet on which coders say what a category ought to count."""

    reads_running_text = True
    ignores_punctuation = True
    runs_several = True

    def schema(self) -> Schema:
        """How its table is laid out, but for the categories."""
        return schema()

    def columns(self, step: Step[CodeSettings]) -> Collection[str]:
        """The columns that its table may have depend on the dictionary."""
        return ()

    def validate_settings(self, step: Step[CodeSettings]) -> Step[CodeSettings]:
        """There is a dictionary."""
        step.require_input()
        if not step.settings.dictionary:
            raise UsageError("code needs a dictionary", "type --dictionary FILE.toml --select CATEGORY")
        return step

    def check(self, step: Step[CodeSettings], made: Collection[Path]) -> None:
        """The dictionary can be read."""
        check_dictionary(step, made)

    def needs_token_order(self, step: Step[CodeSettings]) -> bool:
        """Whether the order of the words must be known."""
        return True

    def analyse_several(
        self, step: Step[CodeSettings], texts: Scans, notes: list[str], drawing: DrawProgress
    ) -> tuple[ScannedTexts, Result]:
        """The texts, whole where sentences are cut of them, and a sheet of their units."""
        unit = step.reading.unit
        read = replace(step, reading=replace(step.reading, unit=Unit())) if unit.by_tokens else step
        material = material_of(read, texts, notes, ordered=True)
        corpus = material.corpus
        units = cut_corpus(corpus, unit.kind, unit.size) if unit.by_tokens else corpus
        dictionary = dictionary_of(step)
        names = dictionary.shown_categories
        if clash := [name for name in names if name in schema().names]:
            raise DataError(f"a category is called {listed(clash)}, as a column of the sheet is", "rename it")
        matches = find_matches(corpus, dictionary)
        note_no_hit(dictionary, matches, notes)
        starts = units.sequence[1]
        strata = strata_of(matches, names, starts, step.settings.sample)
        chosen = drawn_units(strata, step.settings.seed)
        chosen = chosen[np.diff(starts)[chosen] > 0]
        _note_drawn(strata, names, notes)
        if unit.kind == "whole" and (middle := int(np.median(np.diff(starts)[chosen]))) > _LONG:
            notes.append(
                f"units are whole documents, of {middle:,} words in the middle: --unit sentence draws sentences"
            )
        names_of = names_of_units(units.documents["document"])
        ids = [names_of[one] for one in chosen.tolist()]
        table = _sheet(read, corpus, units, chosen, ids, names)
        sealed = _sealed(step, ids, units, chosen, strata, matches, dictionary)
        laid_out = schema(names)
        sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
        result = Result(
            "code", table, laid_out.of_table(table.names), sizes, step.typed, schema=laid_out, sealed=packed(sealed)
        )
        return material, result


def _note_drawn(strata: Strata, names: Sequence[str], notes: list[str]) -> None:
    with_hit = int(strata.drawn[1:].sum())
    notes.append(
        f"{numbered(int(strata.drawn.sum()), 'unit')} drawn of {int(strata.sizes.sum()):,}: {with_hit:,} with a hit, "
        f"in {numbered(len(strata.names) - 1, 'stratum', 'strata')} of entries, and {int(strata.drawn[0]):,} without"
    )
    known = {category for category, _ in strata.names}
    if missing := [name for name in names if name not in known]:
        notes.append(
            f"no unit is drawn for {listed(missing)}: there is no hit, or only beside hits of a rarer category"
        )


def _sheet(
    step: Step[CodeSettings],
    corpus: Corpus,
    units: Corpus,
    chosen: np.ndarray,
    ids: Sequence[str],
    names: Sequence[str],
) -> Table:
    """The rows of the sheet, coder by coder."""
    starts = units.sequence[1]
    order = np.argsort(chosen, kind="stable")
    rising = chosen[order]
    places = Matches(starts[rising], np.diff(starts)[rising])
    number = np.arange(1, len(rising) + 1)
    lines = Lines(number, np.zeros(len(rising), dtype=np.int64), places, documents_of(corpus, places))
    (cut,) = cut_lines(step, corpus, lines, (str(step.settings.context),))
    texts = np.empty_like(cut)
    texts[order] = cut
    documents = corpus.documents["document"][documents_of(corpus, places)]
    document = np.empty(len(rising), dtype=object)
    document[order] = documents
    coders = coders_of(len(chosen), step.settings.coders, step.settings.overlap)
    empty = [""] * len(names)
    rows = [
        (ascii_uppercase[coder], ids[at], str(document[at]), *_with_its_signs(*texts[at].tolist()), *empty)
        for coder in range(step.settings.coders)
        for at, own in enumerate(coders)
        if coder in own
    ]
    return Table.of_rows(rows, ["coder", "unit_id", "document", "text", "before", "after", *names])


def _with_its_signs(before: str, text: str, after: str) -> tuple[str, str, str]:
    """A unit with the signs that stand at its last word, what is before it, and what is after it."""
    signs = _SIGNS.match(after)
    end = signs.end() if signs else 0
    return text + after[:end], before, after[end:].lstrip()


def _sealed(
    step: Step[CodeSettings],
    ids: Sequence[str],
    units: Corpus,
    chosen: np.ndarray,
    strata: Strata,
    matches: DictionaryMatches,
    dictionary: Dictionary,
) -> Sealed:
    """Strata, weights and hits of the units, for those who read the sheet when it is filled in."""
    names = dictionary.shown_categories
    starts = units.sequence[1]
    groups, tokens = units.documents["group"], units.tokens
    sizes, drawn = strata.sizes.tolist(), strata.drawn.tolist()
    hits = entries_of(matches, names, starts, chosen)
    return Sealed(
        str(step.reading.unit),
        tuple(names),
        tuple(tuple(entry.text for entry in dictionary.categories.get(name, ())) for name in names),
        tuple((category, sizes[at], drawn[at]) for at, (category, _) in enumerate(strata.names)),
        {
            name: SealedUnit(str(groups[unit]), int(strata.of[unit]), int(tokens[unit]), tuple(own))
            for name, unit, own in zip(ids, chosen.tolist(), hits, strict=True)
        },
    )


ANALYSIS = CodeAnalysis()
