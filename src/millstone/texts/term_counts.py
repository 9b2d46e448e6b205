"""The terms of a request's texts, counted: what its preparation makes of them, and a table made of the counts."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wildcards import literal_signs
from millstone.core.base.wording import listed, nearest, numbered, of_memory, quoted_entries, quoted_entry
from millstone.core.corpus.corpus import Corpus, GroupSize, group_sizes, noun_of
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.scan.rare_terms import Rare
from millstone.core.tables.table import Table, distinct_rows
from millstone.core.terms.counts import Counts, count
from millstone.core.terms.frequency_lists import count_values, with_listed
from millstone.core.terms.ngrams import count_ngrams
from millstone.core.terms.phrases import with_phrases
from millstone.core.terms.term_map import TermMap, by_tag, check_annotation, map_terms
from millstone.core.terms.word_lists import WordLists, entries_of_several_words
from millstone.texts.cache.lemma_cache import lemmas_of
from millstone.texts.inputs.lists.word_lists import read_phrases, read_word_lists
from millstone.texts.machine import memory
from millstone.texts.request import TextRequest
from millstone.texts.scanned_texts import ScannedTexts

_NEAREST_AMONG = 20_000
# bytes of a row with its term while a table is made, ordered and written
_ROW = 250


@frozen
class PreparedTerms:
    """A corpus with its phrases, and what its forms count as."""

    corpus: Corpus
    lists: WordLists
    term_map: TermMap


@frozen
class TermCounts:
    """The counts of a request: single terms under 1, n-grams under their size."""

    prepared: PreparedTerms
    counted: Mapping[int, Counts]
    of_texts: bool

    @property
    def of_one_size(self) -> Counts:
        """The counts, where there are those of one size only."""
        (counts,) = self.counted.values()
        return counts

    def note_lone_documents(self, what: str, notes: list[str]) -> None:
        """Say of which groups there is one document only, and what follows."""
        sizes = next(iter(self.counted.values())).sizes
        lone = [size.name for size in sizes if size.documents == 1]
        if lone and self.of_texts:
            notes.append(f"one {noun_of(self.prepared.corpus.documents)} only in {listed(lone)}: {what}")

    def table(self, analysis: Callable[[Counts], Table]) -> Table:
        """Apply an analysis to the counts; n-grams of several sizes become one table, by group, then size."""
        tables = {n: analysis(counts) for n, counts in self.counted.items()}
        if len(tables) == 1:
            return next(iter(tables.values()))
        names = next(iter(tables.values())).names
        blocks = [name for name in ("group", "target", "reference", "against") if name in names]
        place = names.index("term") + 1 if "term" in names else len(blocks)
        every = Table.joined([table.with_columns({"n": n}, place) for n, table in tables.items()])
        if not blocks:
            return every
        return every.at(np.argsort(distinct_rows([every[name] for name in blocks])[0], kind="stable"))

    @property
    def left_out(self) -> dict[str, int]:
        """Rule -> tokens it left out."""
        return {rule: tokens for counts in self.counted.values() for rule, tokens in counts.left_out.items()}

    @property
    def sizes(self) -> tuple[GroupSize, ...]:
        """The sizes in words, with the places of n-grams."""
        first = next(iter(self.counted.values()))
        if first.listed is not None:
            return first.sizes
        corpus = self.prepared.corpus
        found = []
        for number, size in enumerate(group_sizes(corpus.documents, corpus.tokens, corpus.groups)):
            places = {str(n): counts.sizes[number].tokens for n, counts in self.counted.items() if n > 1}
            found.append(replace(size, places=places))
        return tuple(found)


def count_texts(request: TextRequest, material: ScannedTexts, notes: list[str]) -> TermCounts:
    """Prepare the texts of a request and count their terms; what the user should know goes to `notes`.

    Where the texts remember what was counted for the same preparation, that is returned.
    """
    kept = material.remembered
    key = (request.preparation, request.counted)
    found: TermCounts
    own: list[str] = []
    if kept is not None and key in kept:
        found, own = kept[key]
    else:
        if kept is not None:
            # what was counted for another preparation goes before there is more
            kept.clear()
        prepared = prepared_terms(request, material, own)
        counted = count_terms(request, prepared, material, own)
        found = TermCounts(prepared, counted, material.lists is None and not request.counted.count_field)
        if kept is not None:
            kept[key] = found, own
    notes += own
    _check_room(request, list(found.counted.values()))
    return found


def _check_room(request: TextRequest, counted: Sequence[Counts]) -> None:
    """Refuse a table of terms that memory has no room for, before it is made."""
    limits, most = request.row_limits, memory(request.work)
    if limits is None or sum(len(one.terms) * len(one.groups) for one in counted) * _ROW <= most:
        return
    min_freq, min_docs = limits
    rows = 0
    for counts in counted:
        for group in counts.groups:
            part = counts.part((group,))
            chosen = part.freq >= max(min_freq, 1)
            rows += int((chosen & (part.docs >= min_docs)).sum() if min_docs else chosen.sum())
    if rows * _ROW > most:
        need, room = of_memory(rows * _ROW), of_memory(most)
        raise DataError(
            f"a table of {rows:,} rows takes about {need} of memory, and {room} are allowed",
            f"leave rare terms out with --min-freq {max(5, 2 * min_freq)} or --min-docs {max(3, 2 * min_docs)}, "
            "or allow more with --memory",
        )


def rare_of(request: TextRequest) -> Rare | None:
    """Which terms can change nothing in the result of a request, where it can be said of each word by itself."""
    by, least = request.preparation, request.least_freq
    looks_further = by.lemmas or by.stem or by.merge or by.phrases or by.pos or by.tag or by.around
    # it is noted which of these are not there
    names_words = by.only or by.spare
    is_plain = by.ngram == (1, 1) and by.base == "all" and by.punctuation == "drop"
    counts_words = not (request.counted.count_field or request.counted.count_tags)
    if least <= 1 or looks_further or names_words or not (is_plain and counts_words):
        return None
    lists = read_word_lists(by)

    def terms(forms: list[str]) -> tuple[list[str], np.ndarray]:
        nowhere = SparseMatrix.of_dense(np.zeros((0, len(forms)), dtype=np.int32))
        nothing = np.array([], dtype=np.int64)
        term_map = map_terms(Corpus(forms, nowhere, nothing, Table({}), ()), by, lists)
        # which term those have that are left out does not matter
        numbers = np.maximum(term_map.term_of, 0)
        return term_map.terms[numbers].tolist() if len(term_map.terms) else forms, term_map.term_of < 0

    return Rare(least, terms)


def prepared_terms(request: TextRequest, material: ScannedTexts, notes: list[str]) -> PreparedTerms:
    """The forms of a request's texts, and what each counts as; what the user should know goes to `notes`."""
    preparation = request.preparation
    lists = read_word_lists(preparation)
    corpus = with_phrases(material.corpus, read_phrases(preparation.phrases, preparation.case), preparation.case)
    lemmas = None
    if lists.lemmas:
        check_annotation(corpus, preparation)
        lemmas = lemmas_of(corpus, lists.lemmas, material.kept_in)
    term_map = map_terms(corpus, preparation, lists, lemmas)
    _note_entries(request, lists, term_map, notes, corpus.least == 1)
    return PreparedTerms(corpus, lists, as_counted(request, corpus, term_map))


def as_counted(request: TextRequest, corpus: Corpus, term_map: TermMap) -> TermMap:
    """The terms of a request, or their parts of speech where these are counted."""
    return by_tag(term_map, corpus) if request.counted.count_tags else term_map


def count_terms(
    request: TextRequest, prepared: PreparedTerms, material: ScannedTexts, notes: list[str]
) -> dict[int, Counts]:
    """Count single terms under 1, n-grams under their size."""
    preparation = request.preparation
    corpus, term_map, lists = prepared.corpus, prepared.term_map, prepared.lists
    if request.counted.count_field:
        return {1: count_values(corpus, request.counted.count_field)}
    if material.lists is not None:
        of_sizes = material.of_sizes or {1: material}
        return {n: _of_lists(request, one, prepared) for n, one in of_sizes.items()}
    counted = {}
    for n in range(preparation.ngram[0], preparation.ngram[1] + 1):
        counted[n] = (
            count(corpus, term_map, preparation.base)
            if n == 1
            else count_ngrams(corpus, term_map, n, preparation.bridge, lists, preparation.case)
        )
        if n > 1:
            places = listed(f"{size.name} {size.tokens:,}" for size in counted[n].sizes)
            notes.append(f"rates of {n}-grams are of their places: {places}")
    stopped: Counter[str] = Counter()
    for counts in counted.values():
        stopped.update(counts.left_out_ngrams)
    notes += [f"stop list {name} left out {numbered(number, 'n-gram')}" for name, number in stopped.items()]
    return counted


def _of_lists(request: TextRequest, material: ScannedTexts, prepared: PreparedTerms) -> Counts:
    """The counts of frequency lists, whose terms have one number of words."""
    corpus, term_map = material.corpus, prepared.term_map
    if corpus is not prepared.corpus:
        term_map = as_counted(request, corpus, map_terms(corpus, request.preparation, prepared.lists))
    counts = count(corpus, term_map, request.preparation.base)
    return with_listed(counts, corpus, term_map, material.lists or {})


def _note_entries(
    request: TextRequest, lists: WordLists, term_map: TermMap, notes: list[str], all_known: bool
) -> None:
    notes += [stop_list.note for stop_list in lists.stop if stop_list.note]
    for stop_list in lists.stop:
        most = request.preparation.ngram[1]
        several = [] if request.preparation.phrases or most > 1 else entries_of_several_words(stop_list)
        if several:
            such = f"{_entries(len(several))} of several words, such as {quoted_entry(several[0])}"
            such += literal_signs(several)
            notes.append(f"stop list {stop_list.name}: {such}: no single word is left out by it")
    for name, missing in term_map.idle.items():
        known = {word for stage in term_map.stages for word in stage.values.words}
        near = nearest(missing[0], known) if all_known and len(known) < _NEAREST_AMONG else ""
        verb = "fits" if len(missing) == 1 else "fit"
        near = near or literal_signs(missing)
        notes.append(f"{name}: {_entries(len(missing))} {verb} no word of the texts: {quoted_entries(missing)}{near}")


def _entries(number: int) -> str:
    return "1 entry" if number == 1 else f"{number:,} entries"
