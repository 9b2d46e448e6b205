"""Checks of the texts of a step: sizes, what looks wrong, and what happens to a word."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any

from millstone.analyses.base.analysis import analysis_of, texts_of
from millstone.analyses.base.matches.context_filter import around
from millstone.analyses.base.step import Step
from millstone.analyses.check.findings import Finding, findings, odd_lemmas
from millstone.analyses.check.inspector import Inspector
from millstone.analyses.check.overview import overview
from millstone.analyses.check.units import units_in_words
from millstone.core.base.errors import DataError
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.corpus.corpus import Corpus, Document, group_sizes
from millstone.core.evidence.sampling import sampling_units
from millstone.core.matrix.totals import column_sums
from millstone.core.tables.result import Result
from millstone.core.terms.explanation import explained
from millstone.core.terms.phrases import with_phrases
from millstone.core.terms.term_map import map_terms
from millstone.core.terms.word_lists import Entries, WordLists
from millstone.core.tokenise.words import fold_case
from millstone.texts.documents import documents_of, raw_documents_of
from millstone.texts.inputs.lists.word_lists import likeliest_stop_list, read_phrases, read_stop_list, read_word_lists
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.scans import Scans, least_tokens, scan_step


@dataclass(frozen=True)
class Checked:
    """The outcome of a check: the table of groups, what looks wrong, what was read, and what was left out."""

    result: Result
    findings: tuple[Finding, ...]
    provenance: Provenance
    cleaned: Cleaned
    too_short: int


def check(step: Step[Any], progress: Callable[[int, int], None]) -> Checked:
    """Look at the texts of a step.

    Raises
    ------
    MillstoneError
    """
    provenance, cleaned, inspector = Provenance(), Cleaned(), Inspector()
    documents = inspector.watch(documents_of(texts_of(step), provenance, cleaned))
    lists = read_word_lists(step.preparation)
    corpus, too_short = scan_step(texts_of(step), documents, ordered=True, progress=progress)
    corpus = corpus.in_order([*step.reading.order, *provenance.groups])
    wanted = corpus.tokens >= least_tokens(texts_of(step))
    corpus, too_short = corpus.keep(wanted), too_short + int((~wanted).sum())
    table = overview(corpus, inspector)
    schema = analysis_of(step).schema()
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    result = Result("check", table, schema.of_table(table.names), sizes, step.typed, schema=schema)
    found = findings(corpus, inspector, _function_words(corpus, lists))
    if texts_of(step).languages_of_lemmas:
        stages = {stage.name: stage for stage in map_terms(corpus, step.preparation, lists).stages}
        found += odd_lemmas(corpus, lists, stages["lemma"].values)
    units = sampling_units(corpus.documents, step.settings.sampling_unit)
    for note in units_in_words(corpus.documents, corpus.groups, units):
        provenance.note(note)
    return Checked(result, tuple(found), provenance, cleaned, too_short)


def _function_words(corpus: Corpus, lists: WordLists) -> dict[str, str]:
    """Function words: those of the stop lists and pronouns of the lemmas; without either, of the likeliest list.

    Returns
    -------
    dict
        Word in small letters -> what takes it for a function word.
    """
    stop = list(lists.stop)
    if not stop and not lists.lemmas:
        totals = column_sums(corpus.form_counts).tolist()
        likeliest = likeliest_stop_list(dict(zip(corpus.forms, totals, strict=True)))
        stop = [read_stop_list(likeliest)] if likeliest else []
    found = {word: f"lemmas {one.name}" for one in lists.lemmas for word in one.pronouns}
    for one in stop:
        found |= dict.fromkeys((entry.lower() for entry in one.entries), one.rule)
    spared = Entries(lists.spare, fold_case, as_typed=True)
    return {word: why for word, why in found.items() if word.upper() not in spared.capitals}


def first_documents(step: Step[Any]) -> Iterator[Document]:
    """The documents that are to be shown."""
    return islice(raw_documents_of(texts_of(step), Provenance(), Cleaned()), step.settings.show)


def explain(step: Step[Any], progress: Callable[[int, int], None]) -> list[str]:
    """Explain what happens to a word, a line for each of its forms.

    Raises
    ------
    DataError
        When it does not occur in the texts.
    """
    material = Scans(progress).of(texts_of(step))
    corpus, near = material.corpus, around(step, material, []).corpus if step.preparation.around else None
    lists = read_word_lists(step.preparation)
    phrases = read_phrases(step.preparation.phrases, step.preparation.case)
    corpus = with_phrases(corpus, phrases, step.preparation.case)
    near = with_phrases(near, phrases, step.preparation.case) if near is not None else None
    lines = explained(step.settings.explain, corpus, map_terms(corpus, step.preparation, lists), lists, near)
    if not lines:
        raise DataError(
            f"--explain: {step.settings.explain!r} does not occur in the texts, and no word becomes it",
            "check the spelling; a word is explained as it is written in the texts or as a term of the result",
        )
    return lines
