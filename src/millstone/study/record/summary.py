"""The summary of a step, on standard error: what was read, what was left out, what was written."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from millstone.analyses.base.settings_line import settings_line
from millstone.analyses.base.step import Step
from millstone.core.base.wording import listed, numbered, one_of
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.corpus.corpus import GroupSize, whole_size
from millstone.study.runner import Outcome

_FILES_NAMED = 4


def summary(outcome: Outcome) -> list[str]:
    """Two to five lines, and the notes."""
    return [
        *read_lines(outcome),
        *settings_lines(outcome.step),
        *(f"note: {note}" for note in outcome.notes),
        *_rows_saved(outcome),
        *_written(outcome.written),
    ]


def read_lines(outcome: Outcome) -> list[str]:
    """Lines on what was read, and what was left out by which rule."""
    return [*([_read(outcome)] if outcome.result.groups else []), *_left_out(outcome)]


def _rows_saved(outcome: Outcome) -> list[str]:
    """A line on a saved table that has only some of the rows."""
    saved, every = len(outcome.chosen.table), sum(outcome.result.all_rows.values())
    if not outcome.step.output.output or saved >= every:
        return []
    why = {name: outcome.step.typed[name] for name in ("match", "top") if name in outcome.step.typed}
    return [f"saved {saved:,} of {every:,} rows ({settings_line(why, outcome.step.command)})"]


def _read(outcome: Outcome) -> str:
    groups = outcome.result.groups
    if outcome.material.lists is not None:
        return f"read {numbered(len(groups), 'frequency list')}: {listed(size.name for size in groups)}"
    whole = whole_size(groups, outcome.step.reading.groups_are_parts)
    tokens = whole.tokens
    # a table of values says nothing of words
    sizes = map(_size, groups) if tokens else (f"{size.name} {size.documents:,}" for size in groups)
    named = listed(sizes, between="; ")
    in_groups = f" in {len(groups)} groups: {named}" if len(groups) > 1 else f", group {groups[0].name}"
    words = f", {numbered(tokens, 'token')}" if tokens else ""
    done = "planned" if outcome.result.is_planned else "read"
    return f"{done} {whole.number}{words}{in_groups}"


def _written(paths: Sequence[Path]) -> list[str]:
    if len(paths) > _FILES_NAMED:
        inside = [path.name for path in paths if path.parent == paths[0].parent]
        return [f"wrote {numbered(len(paths), 'file')}, in {paths[0].parent}: {listed(inside, 3)}"]
    return [f"wrote {', '.join(map(str, paths))}"] if paths else []


def _size(size: GroupSize) -> str:
    number = size.number if size.texts else f"{size.documents:,}"
    return f"{size.name} {number} ({numbered(size.tokens, 'token')})"


def _left_out(outcome: Outcome) -> list[str]:
    material = outcome.material
    least = outcome.step.preparation.min_tokens
    documents = [
        (material.provenance.empty_cells, "row", "without text"),
        (material.provenance.filtered, "document", "that --where excludes"),
        (len(material.cleaned.repeats), "document", "with a text that occurred before"),
        (len(material.cleaned.near_duplicates), "document", "with nearly the text of another"),
        (material.too_short, "document", f"under {numbered(least, 'token')}"),
    ]
    lines = []
    if outcome.result.left_out:
        lines.append(
            f"left out {_tokens_left_out(outcome.result.left_out, outcome.result.groups, material.not_near)}"
        )
    noted = [f"{numbered(number, noun)} {why}" for number, noun, why in documents if number]
    if noted:
        lines.append(f"left out {'; '.join(noted)}")
    lines += cleaned_lines(material.cleaned)
    if material.provenance.skipped:
        lines.append(_skipped(material.provenance.skipped))
    return lines


def cleaned_lines(cleaned: Cleaned) -> list[str]:
    """Lines on what cleaning took out of the texts."""
    noted = []
    if cleaned.running:
        noted.append(f"dropped {numbered(cleaned.running.total(), 'running line')}")
    noted += [f"cut {number:,} {one_of(what, number)}" for what, number in cleaned.cut.items() if number]
    noted += [f"fixed {number:,} {one_of(what, number)}" for what, number in cleaned.fixed.items() if number]
    across = len(cleaned.repeats_across)
    same = f"{numbered(across, 'document')} kept whose text is in another group too"
    return [*(["; ".join(noted)] if noted else []), *([f"note: {same}"] if across else [])]


def _tokens_left_out(left_out: Mapping[str, int], groups: Sequence[GroupSize], not_near: int) -> str:
    total = sum(size.tokens for size in groups) + not_near
    rules = "; ".join(f"{rule} {number:,}" for rule, number in left_out.items())
    return f"{sum(left_out.values()):,} of {total:,} tokens: {rules}"


def _skipped(passed_over: Sequence[tuple[str, str]]) -> str:
    names = [name for name, _ in passed_over]
    shown = listed(names, 3)
    verb = "is" if len(names) == 1 else "are"
    kinds = {why for _, why in passed_over}
    why = f"that {verb} not text" if len(kinds) > 1 else f"({next(iter(kinds))})"
    return f"skipped {numbered(len(names), 'file')} {why}: {shown}"


def settings_lines(step: Step[Any]) -> list[str]:
    """The settings that are not defaults, in a line, if there are any."""
    line = settings_line(step.typed, step.command)
    return [f"settings: {line}"] if line else []
