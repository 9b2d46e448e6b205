"""The texts of a request: read, cleaned, scanned once for all steps that share them."""

import os
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace

import numpy as np

from millstone.core.base.addresses import is_address
from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed, nearest_names, numbered
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.corpus.corpus import Corpus, Document
from millstone.core.corpus.corpus_units import cut_corpus, grouped_by_part, with_positions
from millstone.core.corpus.documents import DocumentBlock
from millstone.core.corpus.repeats import Repeats
from millstone.core.matrix.on_disk import SHARE
from millstone.core.scan.scan import scan
from millstone.core.settings.conditions import condition_from
from millstone.core.tables.table import distinct_rows
from millstone.texts.documents import are_counted_as_read, documents_of, looks_at_all_texts
from millstone.texts.duplicates import near_duplicates_of
from millstone.texts.inputs.fields import OF_PARTS
from millstone.texts.inputs.finding.finding import all_files
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.reader import read_in_blocks
from millstone.texts.machine import Scheduler, memory, processors, scheduler_of
from millstone.texts.request import TextRequest
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.term_counts import rare_of

Progress = Callable[[int, int], None]

# as many bytes of text as the file has
_FLAT = (".txt", ".text", ".md", ".csv", ".tsv", ".jsonl")


@dataclass
class Scans:
    """Scanned texts; what several steps share is read and scanned once.

    `progress` is called with the bytes read and tokens counted.
    """

    progress: Progress = lambda size, tokens: None
    _scanned: dict[tuple[object, ...], ScannedTexts] = field(default_factory=dict)

    def of(self, request: TextRequest, ordered: bool = False) -> ScannedTexts:
        """The scanned texts of a request, without its documents that are too short.

        Raises
        ------
        MillstoneError
        """
        if request.counted.lists:
            # few steps work on frequency lists
            from millstone.texts.list_material import material_of_lists

            return material_of_lists(request)
        if not request.inputs.input:
            return ScannedTexts(scan([]), Provenance(), Cleaned())
        preparation = request.preparation
        ordered = ordered or needs_order(request)
        marks = preparation.punctuation == "keep" and not request.ignores_punctuation
        repeats = Repeats() if request.tracks_duplicates else None
        key = (request.inputs, request.reading, _text_rules(request), marks, ordered, repeats is None)
        # a scan that lacks rare words serves steps alike in what rare means
        own = (*key, preparation, request.least_freq)
        found = self._scanned.get(key) or self._scanned.get(own)
        if found is None:
            found = self._kept_or_new(request, ordered, marks, repeats)
            self._scanned[key if found.corpus.least == 1 else own] = found
        if not preparation.drop_near_duplicates:
            return _long_enough(found, request)
        chosen = (*own, request.in_order)
        if chosen not in self._scanned:
            self._scanned[chosen] = _without_near_duplicates(_long_enough(found, request), request)
        return self._scanned[chosen]

    def _kept_or_new(self, request: TextRequest, ordered: bool, marks: bool, repeats: Repeats | None) -> ScannedTexts:
        name = ""
        if request.work.cache:
            # few runs use the cache
            from millstone.texts.cache import scan_cache

            settings = {"preparation": _text_rules(request), "marks": marks, "repeats": repeats is not None}
            name = scan_cache.key_of(request, settings, request.work.strict)
            found = scan_cache.load(name, ordered, memory(request.work) // SHARE) if name else None
            if found is not None:
                return found
        start = time.monotonic()
        material = self._new(request, ordered, marks, repeats)
        is_whole = material.corpus.least == 1
        if name and is_whole and time.monotonic() - start > scan_cache.SECONDS:
            return scan_cache.save(name, material)
        return material

    def _new(self, request: TextRequest, ordered: bool, marks: bool, repeats: Repeats | None) -> ScannedTexts:
        provenance, cleaned = Provenance(), Cleaned()
        documents: Iterator[Document | DocumentBlock]
        scheduler = scheduler_of(request.work, request.inputs.input)
        if scheduler and repeats is None and not looks_at_all_texts(request.preparation):
            corpus = self._by_workers(scheduler, request, ordered, marks, provenance, cleaned)
        else:
            if repeats is None and are_counted_as_read(request.reading, request.preparation):
                documents = read_in_blocks(request.inputs.input, request.reading, provenance)
            else:
                one_by_one = documents_of(request, provenance, cleaned)
                documents = repeats.watch(one_by_one) if repeats else one_by_one
            corpus = scanned(request, documents, ordered, self.progress, marks)
        corpus, too_short = in_units(request, corpus)
        corpus = corpus.in_order([*request.reading.order, *provenance.groups])
        _note_odd_documents(corpus, provenance)
        return ScannedTexts(corpus, provenance, cleaned, too_short, repeats or Repeats())

    def _by_workers(
        self,
        scheduler: Scheduler,
        request: TextRequest,
        ordered: bool,
        marks: bool,
        provenance: Provenance,
        cleaned: Cleaned,
    ) -> Corpus:
        """The scan that the workers of a cluster make."""
        # few scans are made by other machines
        from millstone.texts.cluster.parts import PartRules
        from millstone.texts.cluster.workers import scan_on_cluster

        rules = PartRules(request.reading, request.preparation, ordered or request.reading.unit.by_tokens, marks)
        return scan_on_cluster(scheduler, request.inputs.input, rules, provenance, cleaned, self.progress)


def _text_rules(request: TextRequest) -> tuple[object, ...]:
    """The part of the preparation that matters before terms are made."""
    preparation = request.preparation
    cleaning = (preparation.drop_repeats, preparation.drop_running, preparation.cut, preparation.mend)
    tagger: tuple[str, ...] = ()
    if preparation.tag:
        # few texts are tagged
        from millstone.texts.inputs.tags.tagger import tagger_name

        tagger = (preparation.tag, tagger_name())
    return (*cleaning, preparation.tokens, _least_whole(request), *tagger)


def needs_order(request: TextRequest) -> bool:
    """Whether a request looks at the order of words: its command, its preparation, its unit or its dictionary."""
    preparation = request.preparation
    of_ngrams = preparation.ngram != (1, 1)
    if (
        preparation.around
        or preparation.phrases
        or preparation.drop_near_duplicates
        or request.knows_names
        or of_ngrams
        or request.reading.unit.by_tokens
    ):
        return True
    return bool(request.in_order)


def scan_step(
    request: TextRequest,
    documents: Iterator[Document | DocumentBlock],
    ordered: bool,
    progress: Progress,
    marks: bool = False,
) -> tuple[Corpus, int]:
    """The documents scanned, and cut as the unit says; and how many were too short to be cut."""
    return in_units(request, scanned(request, documents, ordered, progress, marks))


def scanned(
    request: TextRequest,
    documents: Iterator[Document | DocumentBlock],
    ordered: bool,
    progress: Progress,
    marks: bool,
) -> Corpus:
    """The documents of a request scanned on this machine, before they are cut."""
    ordered = ordered or request.reading.unit.by_tokens
    jobs = processors(request.work)
    rare = None
    if request.least_freq > 1:
        rare = rare_of(request)
    return scan(documents, ordered, progress, request.preparation.tokens, marks, jobs, memory(request.work), rare)


def in_units(request: TextRequest, corpus: Corpus) -> tuple[Corpus, int]:
    """A scan cut as the unit of a request says; and how many documents were too short to be cut."""
    unit = request.reading.unit
    long_enough = corpus.tokens >= _least_whole(request)
    corpus = corpus.keep(long_enough)
    if unit.by_tokens:
        corpus = cut_corpus(corpus, unit.kind, unit.size)
    corpus = with_positions(corpus)
    if request.reading.groups_are_parts:
        corpus = grouped_by_part(corpus)
    if request.reading.where:
        corpus = _of_wanted_parts(corpus, request)
    return corpus, int((~long_enough).sum())


def _of_wanted_parts(corpus: Corpus, request: TextRequest) -> Corpus:
    """The parts that the conditions on parts keep."""
    conditions = [one for one in map(condition_from, request.reading.where) if one.field in OF_PARTS]
    kept = np.ones(len(corpus.documents), dtype=bool)
    for condition in conditions:
        if condition.field in corpus.documents:
            values = map(str, corpus.documents[condition.field].tolist())
            kept &= [bool(condition.holds({condition.field: value})) for value in values]
    if len(kept) and not kept.any():
        raise DataError(
            f"--where leaves no part of {numbered(len(kept), 'part')}",
            "loosen the condition; parts are numbered from 1",
        )
    return corpus.keep(kept)


def _least_whole(request: TextRequest) -> int:
    """How long a text must be before it is cut into equal pieces; otherwise it is the pieces that are measured."""
    return request.preparation.min_tokens if request.reading.unit.size else 0


def least_tokens(request: TextRequest) -> int:
    """How many tokens a document must have."""
    return 0 if request.reading.unit.size else request.preparation.min_tokens


def _note_odd_documents(corpus: Corpus, provenance: Provenance) -> None:
    names = corpus.documents["document"]
    empty = names[corpus.tokens == 0].tolist()
    if empty:
        provenance.note(f"{_such_as(empty)} without words: counted in documents, with no part in rates by document")
    if len(set(names.tolist())) == len(names):
        return
    is_again = np.ones(len(names), dtype=bool)
    is_again[distinct_rows([names])[1]] = False
    again = names[is_again].tolist()
    if again:
        provenance.note(f"{_such_as(again)} with the name of another")


def _such_as(names: list[str]) -> str:
    return f"{numbered(len(names), 'document')} ({names[0]}{', ...' if len(names) > 1 else ''})"


def _long_enough(material: ScannedTexts, request: TextRequest) -> ScannedTexts:
    wanted = material.corpus.tokens >= least_tokens(request)
    too_short = material.too_short + int((~wanted).sum())
    kept = replace(material, corpus=material.corpus.keep(wanted), too_short=too_short)
    if not material.corpus.tokens.sum() and not material.too_short:
        scanned = [note for note in material.provenance.notes if "(OCR)" in note]
        raise DataError(
            f"there are no words in {listed(request.inputs.input)}",
            scanned[0] if scanned else "check the files and the text column",
        )
    if not kept.corpus.tokens.sum():
        longest = f": the longest has {int(material.corpus.tokens.max()):,} tokens" if len(wanted) else ""
        raise DataError(
            f"--min-tokens {request.preparation.min_tokens} leaves no document{longest}", "choose a smaller number"
        )
    unknown = [name for name in request.reading.order if name not in kept.corpus.groups]
    if unknown:
        raise DataError(
            f"--order names no group of the texts: {listed(unknown)}",
            f"the groups are {nearest_names(unknown[0], kept.corpus.groups)}",
        )
    return kept


def _without_near_duplicates(material: ScannedTexts, request: TextRequest) -> ScannedTexts:
    """The texts without those that are nearly the text of another one in their group."""
    corpus = material.corpus
    kept = near_duplicates_of(corpus, request.preparation).kept
    names = corpus.documents["document"][~kept].tolist()
    return replace(material, corpus=corpus.keep(kept), cleaned=replace(material.cleaned, near_duplicates=names))


def bytes_to_read(request: TextRequest) -> int:
    """How many bytes of text the inputs have; 0 where that is unknown before they are read."""
    if request.counted.lists:
        return 0
    paths = all_files(request.inputs.input, request.reading.recursive)
    # to ask elsewhere for the size of each file takes long
    is_known = all(path.endswith(_FLAT) and not is_address(path) for path in paths)
    return sum(map(os.path.getsize, paths)) if is_known else 0
