"""Code: a sheet on which coders say what a category ought to count."""

import base64
import hashlib
import json
import re
import zlib
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from string import ascii_uppercase
from typing import Any

import numpy as np

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.matches.dictionary_input import check_dictionary, dictionary_of, note_no_hit
from millstone.analyses.base.reading import material_of
from millstone.analyses.base.step import Step
from millstone.analyses.code.sample import Strata, coders_of, drawn_units, hits_of, strata_of
from millstone.analyses.code.schema import schema
from millstone.analyses.code.settings import CodeSettings
from millstone.analyses.concordance.contexts import cut_lines
from millstone.analyses.concordance.lines import Lines
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import listed, numbered
from millstone.core.corpus.corpus import Corpus, group_sizes
from millstone.core.corpus.corpus_units import cut_corpus
from millstone.core.dictionary.matches import find_matches
from millstone.core.matches.matches import Matches, documents_of
from millstone.core.settings.inputs import Unit
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.scans import Scans

_SHORT = 8
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
        table, ids = _sheet(read, corpus, units, chosen, names)
        hits = hits_of(matches, names, starts)
        sealed = _sealed(ids, units, chosen, strata, hits, names)
        laid_out = schema(names)
        sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
        result = Result(
            "code", table, laid_out.of_table(table.names), sizes, step.typed, schema=laid_out, sealed=sealed
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
    step: Step[CodeSettings], corpus: Corpus, units: Corpus, chosen: np.ndarray, names: Sequence[str]
) -> tuple[Table, list[str]]:
    """The rows of the sheet, coder by coder, and the names of the units that are drawn."""
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
    ids = [_id(str(document[at]), int(unit)) for at, unit in enumerate(chosen.tolist())]
    coders = coders_of(len(chosen), step.settings.coders, step.settings.overlap)
    empty = [""] * len(names)
    rows = [
        (ascii_uppercase[coder], ids[at], str(document[at]), *_with_its_signs(*texts[at].tolist()), *empty)
        for coder in range(step.settings.coders)
        for at, own in enumerate(coders)
        if coder in own
    ]
    return Table.of_rows(rows, ["coder", "unit_id", "document", "text", "before", "after", *names]), ids


def _with_its_signs(before: str, text: str, after: str) -> tuple[str, str, str]:
    """A unit with the signs that stand at its last word, what is before it, and what is after it."""
    signs = _SIGNS.match(after)
    end = signs.end() if signs else 0
    return text + after[:end], before, after[end:].lstrip()


def _id(document: str, unit: int) -> str:
    """The name of a unit: the same wherever it is drawn again."""
    return hashlib.sha256(f"{document}\0{unit}".encode("utf-8", "surrogatepass")).hexdigest()[:_SHORT]


def _sealed(
    ids: Sequence[str],
    units: Corpus,
    chosen: np.ndarray,
    strata: Strata,
    hits: np.ndarray,
    names: Sequence[str],
) -> str:
    """Strata, weights and hits of the units, in a form that nobody reads in passing."""
    sizes, drawn = strata.sizes.tolist(), strata.drawn.tolist()
    groups = units.documents["group"]
    content: Mapping[str, Any] = {
        "categories": list(names),
        "strata": [[*name, sizes[at], drawn[at]] for at, name in enumerate(strata.names)],
        "units": {
            name: [str(groups[unit]), int(strata.of[unit]), [int(one) for one in hits[unit]]]
            for name, unit in zip(ids, chosen.tolist(), strict=True)
        },
    }
    packed = zlib.compress(json.dumps(content, ensure_ascii=False, separators=(",", ":")).encode("utf-8"), 9)
    return base64.b85encode(packed).decode("ascii")


ANALYSIS = CodeAnalysis()
