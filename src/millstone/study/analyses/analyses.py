"""From a scanned corpus to the result of a command: read settings, call the core, name the columns."""

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import pandas as pd

from millstone.core.columns import COLUMNS, PART_COLUMNS, columns_of_terms, renamed
from millstone.core.compare.pairs import ALPHA, check_group_names
from millstone.core.compare.side_by_side import comparisons_beside, key_terms
from millstone.core.corpus.corpus import Corpus, GroupSize, group_sizes, noun_of
from millstone.core.errors import DataError
from millstone.core.result import Result
from millstone.core.settings.declare import option
from millstone.core.terms.counts import Counts, NgramNames, count, left_out_words
from millstone.core.terms.frequency_lists import aligned, count_values, with_listed
from millstone.core.terms.ngrams import count_ngrams
from millstone.core.terms.phrases import with_phrases
from millstone.core.terms.term_map import TermMap, map_terms
from millstone.core.terms.word_lists import WordLists, entries_of_several_words
from millstone.core.wording import listed, nearest, numbered
from millstone.sources.lists.word_lists import read_phrases, read_word_lists
from millstone.study.analyses.by_dictionary import categories, validation
from millstone.study.step import Step
from millstone.study.texts.lemma_cache import remembered
from millstone.study.texts.list_material import background_list, list_to_compare, material_of_lists
from millstone.study.texts.material import Material

_NEAREST_AMONG = 20_000


def analyse(
    step: Step, material: Material, notes: list[str], progress: Callable[[int, int], None] = lambda done, of: None
) -> Result:
    """Carry out the analysis of a step on its texts; what the user should know goes to `notes`.

    `progress` is told how many random draws are done, of how many.
    """
    corpus = material.corpus
    if getattr(step.settings, "validate", ()):
        return validation(step, corpus, notes)
    if step.command.name == "categories":
        return categories(step, corpus, notes)
    if step.command.name == "contrast":
        from millstone.study.analyses.contrasts import contrasts

        def terms() -> tuple[Corpus, TermMap]:
            prepared = _prepared(step, material, notes)
            return prepared.corpus, prepared.term_map

        return contrasts(step, material, notes, terms)
    if step.command.name == "profile":
        return _profile(step, material, notes)
    if step.command.name == "matrix":
        return _matrix(step, material, notes)
    return _of_terms(step, material, notes, progress)


def _of_terms(step: Step, material: Material, notes: list[str], progress: Callable[[int, int], None]) -> Result:
    corpus = material.corpus
    prepared = _prepared(step, material, notes)
    counted = _counted(step, prepared, material, notes)
    analysis = _term_analysis(step, notes, progress)
    frames = {n: analysis(counts) for n, counts in counted.items()}
    frame = _joined(frames)
    asked = getattr(step.settings, "as_dictionary", "")
    keys = key_terms(frame, corpus.groups, step.settings.alpha or ALPHA) if asked else {}
    if step.command.name == "keyness" and step.settings.wide:
        frame = comparisons_beside(frame)
    sizes = _sizes(corpus, counted)
    check_group_names(sizes, words_needed=False)
    if frame.empty:
        one = "value" if step.counted.count_field else "term"
        notes.append(f"no {one} is left to show: the settings leave all of them out")
    left_out = {rule: tokens for counts in counted.values() for rule, tokens in counts.left_out.items()}
    what = "values" if step.counted.count_field else "terms" if counted.keys() == {1} else "ngrams"
    columns = columns_of_terms(frame.columns, what)
    growth = None
    if step.shows_growth:
        from millstone.core.describe.profile import vocabulary_growth

        growth = vocabulary_growth(prepared.corpus, prepared.term_map)
    every = None
    if step.shows_all_compared:
        analysis = _term_analysis(replace(step, settings=step.settings.in_full), [], progress)
        every = _joined({n: analysis(counts) for n, counts in counted.items()})
    return Result(
        step.command.name, frame, columns, sizes, step.typed, left_out, growth, key_terms=keys, compared=every
    )


def _joined(frames: dict[int, pd.DataFrame]) -> pd.DataFrame:
    """The tables of n-grams of several sizes as one, by group or comparison, then size."""
    if len(frames) == 1:
        return next(iter(frames.values()))
    for n, frame in frames.items():
        frame.insert(list(frame.columns).index("term") + 1, "n", n)
    frame = pd.concat(frames.values(), ignore_index=True)
    blocks = [name for name in ("group", "target", "reference", "against") if name in frame.columns]
    if not blocks:
        return frame
    in_order = frame.groupby(blocks, sort=False).ngroup()
    return frame.iloc[np.argsort(in_order.to_numpy(), kind="stable")].reset_index(drop=True)


def _sizes(corpus: Corpus, counted: dict[int, Counts]) -> tuple[GroupSize, ...]:
    """The sizes in words, with the places of n-grams."""
    single = counted.get(1)
    if single is not None and single.listed is not None:
        return single.sizes
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    found = []
    for number, size in enumerate(sizes):
        places = {str(n): counts.sizes[number].tokens for n, counts in counted.items() if n > 1}
        found.append(replace(size, places=places))
    return tuple(found)


def _term_analysis(
    step: Step, notes: list[str], progress: Callable[[int, int], None]
) -> Callable[[Counts], pd.DataFrame]:
    """The analysis of a step; imported when it is used, for some take long to import."""
    name, settings = step.command.name, step.settings
    if name == "keyness":
        from millstone.core.compare.keyness import keyness

        background = background_list(settings.background, step, notes) if settings.background else None

        def key_terms(counts: Counts) -> pd.DataFrame:
            counts, listed = _with_list(step, counts, notes)
            return keyness(counts, settings, background, listed, notes.append, progress)

        return key_terms
    if name == "logodds":
        from millstone.core.compare.logodds import PRIORS, log_odds

        named = settings.prior not in PRIORS
        background = background_list(settings.prior, step, notes) if named else None

        def weighted(counts: Counts) -> pd.DataFrame:
            counts, listed = _with_list(step, counts, notes)
            return log_odds(counts, settings, background, listed, notes.append)

        return weighted
    from millstone.core.describe.frequency import frequency_list, side_by_side

    list_of = side_by_side if settings.wide else frequency_list
    return lambda counts: list_of(counts, settings)


def _with_list(step: Step, counts: Counts, notes: list[str]) -> tuple[Counts, Counts | None]:
    """The counts, and those of the list that they are held against, under the same terms."""
    of_list = list_to_compare(step)
    if of_list is None or step.settings.against in counts.groups:
        return counts, None
    if isinstance(counts.terms, NgramNames):
        raise DataError(
            f"--against {step.settings.against}: a list is held against single terms", "leave --ngram out"
        )
    skipped = [
        name
        for name in ("lemmas", "phrases")
        if getattr(of_list.preparation, name) != getattr(step.preparation, name)
    ]
    if skipped:
        notes.append(
            f"the terms of {step.settings.against} are taken as they stand: "
            f"{' and '.join(map(option, skipped))} made those of the texts only"
        )
    material = material_of_lists(of_list, beside_texts=True)
    notes += material.provenance.notes
    counted = _counted(of_list, _prepared(of_list, material, notes), material, notes)
    return aligned(counts, counted[1])


@dataclass(frozen=True)
class _Prepared:
    """A corpus with its phrases, and what its forms count as."""

    corpus: Corpus
    lists: WordLists
    term_map: TermMap


def _prepared(step: Step, material: Material, notes: list[str]) -> _Prepared:
    preparation = step.preparation
    lists = read_word_lists(preparation)
    corpus = with_phrases(material.corpus, read_phrases(preparation.phrases, preparation.case), preparation.case)
    with remembered(lists, material.kept_in) as known:
        term_map = map_terms(corpus, preparation, known)
    _note_entries(step, lists, term_map, notes)
    return _Prepared(corpus, lists, term_map)


def _counted(step: Step, prepared: _Prepared, material: Material, notes: list[str]) -> dict[int, Counts]:
    """What is counted: single terms under 1, n-grams under their size."""
    preparation = step.preparation
    corpus, term_map, lists = prepared.corpus, prepared.term_map, prepared.lists
    if step.counted.count_field:
        return {1: count_values(corpus, step.counted.count_field)}
    if material.lists is not None:
        counts = count(corpus, term_map, preparation.base)
        return {1: with_listed(counts, corpus, term_map, material.lists)}
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
    lone = [size.name for size in next(iter(counted.values())).sizes if size.documents == 1]
    if lone and step.command.name in ("freq", "keyness"):
        dispersion = "dp is empty" if step.command.name == "freq" else "no check by documents is possible"
        notes.append(f"one {noun_of(corpus.documents)} only in {listed(lone)}: {dispersion}")
    return counted


def _note_entries(step: Step, lists: WordLists, term_map: TermMap, notes: list[str]) -> None:
    notes += [stop_list.note for stop_list in lists.stop if stop_list.note]
    for stop_list in lists.stop:
        most = step.preparation.ngram[1]
        several = [] if step.preparation.phrases or most > 1 else entries_of_several_words(stop_list)
        if several:
            notes.append(
                f"stop list {stop_list.name}: {_entries(len(several))} of several words, such as {several[0]!r}: "
                "no single word is left out by it"
            )
    for name, missing in term_map.idle.items():
        known = {value for stage in term_map.stages for value in stage.values}
        near = nearest(missing[0], known) if len(known) < _NEAREST_AMONG else ""
        verb = "fits" if len(missing) == 1 else "fit"
        notes.append(
            f"{name}: {_entries(len(missing))} {verb} no word of the texts: {listed(map(repr, missing))}{near}"
        )


def _entries(number: int) -> str:
    return "1 entry" if number == 1 else f"{number:,} entries"


def _matrix(step: Step, material: Material, notes: list[str]) -> Result:
    from millstone.core.describe.matrix import document_terms

    counted = _counted(step, _prepared(step, material, notes), material, notes)
    if len(counted) > 1:
        raise DataError("--ngram: a matrix holds n-grams of one size", "type --ngram 2, and make one matrix a size")
    counts = next(iter(counted.values()))
    table = document_terms(counts, step.settings)
    if not len(table.names) or not len(table.rows):
        notes.append("no term is left to show: the settings leave all of them out")
    notes.append(
        f"{numbered(len(table.rows), 'row')}, {numbered(len(table.names), 'column')}; "
        f"{100 * table.filled:.1f} % of the cells are not 0"
    )
    fixed = {name: COLUMNS[name] for name in ("document", "group", "term", *PART_COLUMNS) if name in table.rows}
    return Result("matrix", table.preview(), fixed, counts.sizes, step.typed, counts.left_out, matrix=table)


def _profile(step: Step, material: Material, notes: list[str]) -> Result:
    from millstone.core.describe.profile import MEASURES, profile

    prepared = _prepared(step, material, notes)
    corpus, term_map = prepared.corpus, prepared.term_map
    if step.preparation.ngram != (1, 1):
        notes.append("--ngram: no effect on a profile, which is of single terms")
    settings = step.settings
    frame = profile(corpus, term_map, settings, material.repeats.in_group)
    if settings.per_document and not settings.keep_all:
        for given, name in renamed(corpus.documents.columns, MEASURES).items():
            notes.append(f"the column {given!r} of the texts comes out as {name!r}")
    for name, size in (("msttr", settings.segment), ("mattr", settings.window)):
        short = int(frame[name].isna().sum())
        if short:
            what = numbered(short, noun_of(corpus.documents) if settings.per_document else "group")
            notes.append(f"{name} is empty for {what} of fewer than {size:,} kept tokens")
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    columns = {name: COLUMNS[name] for name in frame.columns if name in COLUMNS and name not in corpus.documents}
    columns |= {name: COLUMNS[name] for name in ("document", "group") if name in frame.columns}
    return Result("profile", frame, columns, sizes, step.typed, left_out_words(corpus, term_map))
