"""The summary of a step, on standard error: what was read, what was left out, what was written."""

from collections.abc import Mapping, Sequence

from millstone.core.corpus import GroupSize
from millstone.core.wording import numbered
from millstone.study.carry import Outcome
from millstone.study.model import settings_line

_GROUPS_NAMED = 6


def summary(outcome: Outcome) -> list[str]:
    """Two to five lines, and the notes."""
    return [
        _read(outcome),
        *_left_out(outcome),
        *_settings(outcome),
        *(f"note: {note}" for note in outcome.notes),
        *(f"wrote {', '.join(map(str, outcome.written))}" for _ in outcome.written[:1]),
    ]


def _read(outcome: Outcome) -> str:
    groups = outcome.result.groups
    documents = sum(size.documents for size in groups)
    tokens = sum(size.tokens for size in groups)
    named = "; ".join(_size(size) for size in groups[:_GROUPS_NAMED])
    more = f"; and {len(groups) - _GROUPS_NAMED} more" if len(groups) > _GROUPS_NAMED else ""
    in_groups = f" in {len(groups)} groups: {named}{more}" if len(groups) > 1 else f", group {groups[0].name}"
    return f"read {numbered(documents, 'document')}, {numbered(tokens, 'token')}{in_groups}"


def _size(size: GroupSize) -> str:
    return f"{size.name} {size.documents:,} ({numbered(size.tokens, 'token')})"


def _left_out(outcome: Outcome) -> list[str]:
    provenance = outcome.material.provenance
    documents = []
    if provenance.empty_cells:
        documents.append(f"{numbered(provenance.empty_cells, 'row')} without text")
    if outcome.material.too_short:
        least = outcome.step.preparation.min_tokens
        documents.append(f"{numbered(outcome.material.too_short, 'document')} under {numbered(least, 'token')}")
    lines = []
    if outcome.result.left_out:
        lines.append(f"left out {_tokens_left_out(outcome.result.left_out, outcome.result.groups)}")
    if documents:
        lines.append(f"left out {'; '.join(documents)}")
    if provenance.skipped:
        lines.append(_skipped(provenance.skipped))
    return lines


def _tokens_left_out(left_out: Mapping[str, int], groups: Sequence[GroupSize]) -> str:
    total = sum(size.tokens for size in groups)
    rules = "; ".join(f"{rule} {number:,}" for rule, number in left_out.items())
    return f"{sum(left_out.values()):,} of {total:,} tokens: {rules}"


def _skipped(names: Sequence[str]) -> str:
    shown = ", ".join(names[:3]) + (", ..." if len(names) > 3 else "")
    return f"skipped {numbered(len(names), 'file')} that {'is' if len(names) == 1 else 'are'} not text: {shown}"


def _settings(outcome: Outcome) -> list[str]:
    line = settings_line(outcome.step.typed)
    return [f"settings: {line}"] if line else []
