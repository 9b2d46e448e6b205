"""Frequency lists as the material of a request: read, sized, and compared in their preparation."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import combinations
from pathlib import Path
from typing import Any

import numpy as np

from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import listed, nearest_names, numbered
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.settings.as_typed import settings_words
from millstone.core.settings.declare import declared, option
from millstone.core.settings.inputs import FrequencyListOptions, InputOptions
from millstone.core.settings.output import Output
from millstone.core.settings.preparation import Preparation
from millstone.core.tables.result import size_in_words
from millstone.core.terms.background import Background
from millstone.core.terms.frequency_lists import Cut, FrequencyList, corpus_of_lists, together
from millstone.core.terms.word_lists import folding
from millstone.outputs.files.companion import read_companion
from millstone.texts.inputs.files import stem_of
from millstone.texts.inputs.lists.frequency_lists import ListFile, read_lists
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.request import TextRequest
from millstone.texts.scanned_texts import ScannedTexts

# what is left out of a list by these depends on its corpus
_CUTTING = ("top", "min_freq", "max_freq", "min_docs", "min_log_dice")
# what these leave out is known where the other side has the same rule
_RULES = ("match", "only", "stop", "drop", "length", "numbers", "pos")


def material_of_lists(request: TextRequest, beside_texts: bool = False) -> ScannedTexts:
    """The frequency lists of a request; those of one group are added up.

    `beside_texts` says that they are held against texts, which are prepared as the request says.

    Raises
    ------
    DataError
    """
    _check_no_order(request)
    provenance = Provenance()
    files = read_lists(request.inputs.input, request.reading, request.counted, provenance)
    companions = {file.path: read_companion(file.path) for file in files}
    sizes = sorted({file.n for file in files})
    if len(sizes) > 1 and sizes[0] == 0:
        other = next(file.path for file in files if not file.n)
        raise DataError(
            f"{other} has terms of one size, and other lists have n-grams of several",
            "make all lists with the same --ngram",
        )
    made = [
        _of_size(request, [file for file in files if file.n == n], companions, provenance, beside_texts)
        for n in sizes
    ]
    if len(made) == 1:
        return made[0]
    return replace(made[0], of_sizes=dict(zip(sizes, made, strict=True)))


def _of_size(
    request: TextRequest,
    files: Sequence[ListFile],
    companions: Mapping[Path, Mapping[str, Any]],
    provenance: Provenance,
    beside_texts: bool,
) -> ScannedTexts:
    """The lists of some files, whose terms have the same number of words."""
    of_groups: dict[str, list[FrequencyList]] = {}
    for file in files:
        others = [{}] if beside_texts else [one.get("settings", {}) for one in companions.values()]
        why = _why_cut(companions[file.path].get("settings", {}), request.typed, others)
        if not companions[file.path]:
            _note_taken_as_whole(file, provenance)
        for group, one in file.lists.items():
            tokens, documents = _size(companions[file.path], file, group)
            cuts = (Cut(why, one.terms),) if why else ()
            of_groups.setdefault(group, []).append(replace(one, tokens=tokens, documents=documents, cuts=cuts))
    lists = {group: together(parts) for group, parts in of_groups.items()}
    _check_whole(lists, request)
    said = _given_sizes(request, lists)
    _check_documents(lists)
    of = f" of {size_in_words(files[0].n)}" if files[0].n else ""
    provenance.note(_sizes_line(lists, said, of))
    differing = _differing(files, companions)
    if differing:
        if request.work.strict:
            raise DataError(
                f"the lists were prepared differently: {differing}", "make them again with the same settings"
            )
        provenance.note(f"the lists were prepared differently: {differing}")
    order = [size.name for notes in companions.values() for size in notes.get("groups", ())]
    provenance.groups = [*(name for name in dict.fromkeys(order) if name in lists), *lists]
    corpus = corpus_of_lists(lists).in_order([*request.reading.order, *provenance.groups])
    return ScannedTexts(corpus, provenance, Cleaned(), lists=lists, same_texts=_same_texts(files, companions))


def _same_texts(files: Sequence[ListFile], companions: Mapping[Path, Mapping[str, Any]]) -> frozenset[frozenset[str]]:
    """The pairs of groups whose lists were made of the same texts, by what their companions say."""
    of_texts: dict[tuple[object, ...], set[str]] = {}
    for file in files:
        companion = companions[file.path]
        inputs = frozenset(str(one.get("sha256", "")) for one in companion.get("inputs", ()))
        settings = companion.get("settings", {})
        chosen = tuple((name, str(settings.get(name, ""))) for name in declared(InputOptions))
        for group, own in file.own_names.items():
            if inputs and "" not in inputs:
                of_texts.setdefault((inputs, chosen, tuple(own)), set()).add(group)
    pairs = (combinations(sorted(groups), 2) for groups in of_texts.values())
    return frozenset(frozenset(pair) for some in pairs for pair in some)


def _why_cut(settings: Mapping[str, Any], now: Mapping[str, Any], others: Sequence[Mapping[str, Any]]) -> str:
    """The settings by which a list lacks terms that the other side may have, as they were typed; "" for none.

    `now` are the settings that reach both sides, `others` those under which the other side was made.
    """
    found = {name: settings[name] for name in _CUTTING if name in settings}
    for name in _RULES:
        own = settings.get(name)
        if own is not None and own != now.get(name) and any(own != one.get(name) for one in others):
            found[name] = own
    return _as_typed(found)


def _as_typed(settings: Mapping[str, Any]) -> str:
    return " ".join(settings_words(settings, (Output, Preparation)))


def _note_taken_as_whole(file: ListFile, provenance: Provenance) -> None:
    least = min(int(one.freq.min()) for one in file.lists.values())
    if least > 1:
        provenance.note(
            f"{file.path.name} has no companion and no term of fewer than {least} occurrences: taken as whole, "
            "so that a term it lacks counts as absent"
        )


def _check_documents(lists: Mapping[str, FrequencyList]) -> None:
    for group, one in lists.items():
        if one.docs is None or one.documents is None:
            continue
        wrong = np.flatnonzero(one.docs > one.documents)
        if len(wrong):
            raise DataError(
                f"the list {group!r}: {one.terms[wrong[0]]!r} occurs in {one.docs[wrong[0]]:,.0f} documents, more "
                f"than the {one.documents:,} of its corpus",
                f"check --documents {group}=N, or the companion of the list",
            )


def _check_whole(lists: Mapping[str, FrequencyList], request: TextRequest) -> None:
    if not request.work.strict:
        return
    for group, one in lists.items():
        if one.cuts:
            raise DataError(
                f"--strict: the list {group!r} was cut ({one.cuts[0].why})",
                "save it whole, without these options, or leave --strict out",
            )


def background_list(path: str, request: TextRequest, notes: list[str]) -> Background:
    """A frequency list as a background: all its groups added up; what the user should know goes to `notes`.

    Raises
    ------
    DataError
    """
    files = read_lists([path], InputOptions(), FrequencyListOptions(), Provenance())
    case = request.preparation.case
    fold = folding(case)
    freq: dict[str, float] = {}
    tokens = 0
    for file in files:
        companion = read_companion(file.path)
        cut = _as_typed({name: value for name, value in companion.get("settings", {}).items() if name in _CUTTING})
        if cut and request.work.strict:
            raise DataError(f"--strict: the list {path} was cut ({cut})", "save it whole, or leave --strict out")
        if cut:
            notes.append(f"the list {path} was cut ({cut}): a term it lacks counts there as half an occurrence")
        for group, one in file.lists.items():
            for term, number in zip(map(fold, one.terms.tolist()), one.freq.tolist(), strict=True):
                freq[term] = freq.get(term, 0) + number
            tokens += _size(companion, file, group)[0] or one.size
    return Background(stem_of(Path(path)), freq, tokens)


def _check_no_order(request: TextRequest) -> None:
    preparation = request.preparation
    needs = {
        "--ngram": preparation.ngram != (1, 1),
        "--phrases": bool(preparation.phrases),
        "--lemmas": request.knows_names,
        "--unit": request.reading.unit.kind != "whole",
        request.in_order: bool(request.in_order),
        "--count-field": bool(request.counted.count_field),
    }
    for name, is_asked in needs.items():
        if is_asked:
            raise UsageError(f"{name} needs texts, and --lists says that the inputs are lists", f"leave {name} out")


def _size(companion: Mapping[str, Any], file: ListFile, group: str) -> tuple[int | None, int | None]:
    """Tokens (of n-grams: places) and documents of a group, as its companion has them."""
    sizes = {size.name: size for size in companion.get("groups", ())}
    names = file.own_names[group]
    if not all(name in sizes for name in names):
        return None, None
    words = {str(len(term.split())) for term in file.lists[group].terms.tolist()}
    size = words.pop() if len(words) == 1 else ""
    tokens = sum(sizes[name].places.get(size, sizes[name].tokens) for name in names)
    return tokens, sum(sizes[name].documents for name in names)


def _given_sizes(request: TextRequest, lists: dict[str, FrequencyList]) -> set[str]:
    """Take over the sizes that were typed; the groups whose tokens were."""
    for name, sizes in (("base_size", request.counted.base_size), ("documents", request.counted.documents)):
        for group, number in sizes:
            if group not in lists:
                raise DataError(
                    f"{option(name)}: there is no list {group!r}", f"the lists are {nearest_names(group, lists)}"
                )
            one = lists[group]
            lists[group] = replace(one, tokens=number) if name == "base_size" else replace(one, documents=number)
    return {group for group, _ in request.counted.base_size}


def _sizes_line(lists: Mapping[str, FrequencyList], said: set[str], of: str) -> str:
    parts = []
    for group, one in lists.items():
        why = "--base-size" if group in said else "the sum of its list" if one.tokens is None else "its companion"
        parts.append(f"{group} {numbered(one.size, 'token')} ({why})")
    return f"corpus sizes{of}: {listed(parts)}"


def _differing(files: Sequence[ListFile], companions: Mapping[Path, Mapping[str, Any]]) -> str:
    """The settings of preparation in which the companions differ, with the values of two of them."""
    names = [*declared(Preparation), "unit", "millstone"]
    known = {file.path.name: companions[file.path] for file in files if companions[file.path]}
    found = []
    for name in names:
        values = {
            path: _shown(notes.get("settings", {}).get(name) if name != "millstone" else notes.get(name))
            for path, notes in known.items()
        }
        if len(set(values.values())) > 1:
            (path, value), *others = values.items()
            other = next(pair for pair in others if pair[1] != value)
            found.append(f"{option(name)[2:]} ({path}: {value}; {other[0]}: {other[1]})")
    return "; ".join(found)


def _shown(value: object) -> str:
    if value is None:
        return "default"
    return ",".join(map(str, value)) if isinstance(value, list) else str(value)
