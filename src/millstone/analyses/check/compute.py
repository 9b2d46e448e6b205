"""Checks of the texts of a step: sizes, what looks wrong, and what happens to a word."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any

from millstone.analyses.base.analysis import analysis_of, texts_of
from millstone.analyses.base.guards.commonest import commonest_words
from millstone.analyses.base.guards.notes import notes_on_words
from millstone.analyses.base.matches.context_filter import around
from millstone.analyses.base.step import Step
from millstone.analyses.check.cut_units import units_table
from millstone.analyses.check.duplicates import duplicates_table
from millstone.analyses.check.findings import Finding, findings, odd_lemmas
from millstone.analyses.check.inspector import Inspector
from millstone.analyses.check.overview import languages_in_words, languages_of, overview
from millstone.analyses.check.schema import duplicates as duplicates_schema
from millstone.analyses.check.schema import units as units_schema
from millstone.analyses.check.units import units_in_words
from millstone.core.base.errors import DataError
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.corpus.corpus import Corpus, Document, group_sizes
from millstone.core.corpus.near_duplicates import NearDuplicates
from millstone.core.evidence.sampling import sampling_units
from millstone.core.tables.result import Result
from millstone.core.terms.explanation import explained
from millstone.core.terms.phrases import with_phrases
from millstone.core.terms.term_map import map_terms
from millstone.core.terms.word_lists import Entries, WordLists
from millstone.core.tokenise.words import fold_case
from millstone.texts.documents import documents_of, raw_documents_of
from millstone.texts.duplicates import near_duplicates_of
from millstone.texts.inputs.lists.word_lists import read_phrases, read_word_lists
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.scans import Scans, least_tokens, scan_step

# so many are looked through for near-duplicates without being asked, which takes some seconds
_MOST_DOCUMENTS, _MOST_TOKENS = 20_000, 3_000_000


@dataclass(frozen=True)
class Checked:
    """The outcome of a check: the table of groups, what looks wrong, what was read, and what was left out.

    `language` says the languages in words.
    """

    result: Result
    findings: tuple[Finding, ...]
    provenance: Provenance
    cleaned: Cleaned
    too_short: int
    language: str


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
    words = commonest_words(corpus)
    languages = languages_of(words)
    table = overview(corpus, inspector, languages)
    schema = analysis_of(step).schema()
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    result = Result("check", table, schema.of_table(table.names), sizes, step.typed, schema=schema)
    near = _near_duplicates(step, corpus)
    if near is not None and step.settings.duplicates:
        listing = duplicates_table(corpus, near)
        result = result.with_table("duplicates", listing, duplicates_schema().of_table(listing.names))
    if step.settings.show_units:
        cut = units_table(step, corpus)
        known = units_schema()
        columns = {name: known.by_name[name] for name in cut.names if name in known.by_name}
        result = result.with_table("show_units", cut, columns, known)
    if near is not None and step.preparation.drop_near_duplicates:
        cleaned.near_duplicates = corpus.documents["document"][~near.kept].tolist()
        near = None
    found = findings(corpus, inspector, table, near, bool(step.reading.encoding), _function_words(lists))
    if texts_of(step).languages_of_lemmas:
        stages = {stage.name: stage for stage in map_terms(corpus, step.preparation, lists).stages}
        found += odd_lemmas(corpus, lists, stages["lemma"].values)
    units = sampling_units(corpus.documents, step.settings.sampling_unit)
    for note in [
        *units_in_words(corpus.documents, corpus.groups, units),
        *notes_on_words(step.preparation, corpus, words),
    ]:
        provenance.note(note)
    language = languages_in_words(corpus.groups, languages)
    return Checked(result, tuple(found), provenance, cleaned, too_short, language)


def _near_duplicates(step: Step[Any], corpus: Corpus) -> NearDuplicates | None:
    """The near-duplicates, where they are asked for or there are few texts to be looked through."""
    asked = step.settings.duplicates or step.preparation.drop_near_duplicates
    if not asked and (len(corpus.documents) > _MOST_DOCUMENTS or int(corpus.tokens.sum()) > _MOST_TOKENS):
        return None
    return near_duplicates_of(corpus, step.preparation)


def _function_words(lists: WordLists) -> dict[str, str]:
    """Function words: those of the stop lists and pronouns of the lemmas that are set.

    Returns
    -------
    dict
        Word in small letters -> what takes it for a function word.
    """
    found = {word: f"lemmas {one.name}" for one in lists.lemmas for word in one.pronouns}
    for one in lists.stop:
        found |= dict.fromkeys((entry.lower() for entry in one.entries), one.rule)
    spared = Entries(lists.spare, fold_case, as_typed=True)
    return {word: why for word, why in found.items() if word.upper() not in spared.capitals}


def first_documents(step: Step[Any]) -> Iterator[Document]:
    """The documents that are to be shown."""
    return islice(raw_documents_of(texts_of(step), Provenance(), Cleaned()), step.settings.show)


def explain(step: Step[Any], progress: Callable[[int, int], None]) -> list[str]:
    """Explain what happens to some words, a line for each of their forms.

    Raises
    ------
    DataError
        When one does not occur in the texts.
    """
    material = Scans(progress).of(texts_of(step))
    corpus, near = material.corpus, around(step, material, []).corpus if step.preparation.around else None
    lists = read_word_lists(step.preparation)
    phrases = read_phrases(step.preparation.phrases, step.preparation.case)
    corpus = with_phrases(corpus, phrases, step.preparation.case)
    near = with_phrases(near, phrases, step.preparation.case) if near is not None else None
    term_map = map_terms(corpus, step.preparation, lists)
    lines = []
    for word in step.settings.explain:
        found = explained(word, corpus, term_map, lists, near)
        if not found:
            raise DataError(
                f"--explain: {word!r} does not occur in the texts, and no word becomes it",
                "check the spelling; a word is explained as it is written in the texts or as a term of the result",
            )
        lines += found
    return lines
