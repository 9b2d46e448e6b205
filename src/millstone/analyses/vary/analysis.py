"""Vary: would a result hold with other settings?"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from millstone.analyses.base.analysis import Analysis, DrawProgress, analysis_of
from millstone.analyses.base.reading import check_before_reading, material_of
from millstone.analyses.base.step import Step
from millstone.analyses.vary.across import Grid, across, each_row, grid_of, told
from millstone.analyses.vary.grid import Combination, combinations, in_order_of_work, texts_key
from millstone.analyses.vary.matching import commonest_forms, matched
from millstone.analyses.vary.moved import agreement, moved, of_lists
from millstone.analyses.vary.permuted import check_permuted, permuted
from millstone.analyses.vary.reasons import Reasons, Side
from millstone.analyses.vary.rows import SettingRows, rows_of
from millstone.analyses.vary.schema import columns_for, each, joint_of, schema
from millstone.analyses.vary.schema import moved as moved_schema
from millstone.analyses.vary.settings import VARIED, VarySettings
from millstone.core.base.errors import MillstoneError, UsageError
from millstone.core.base.wording import listed
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.corpus.corpus import GroupSize
from millstone.core.scan.scan import scan
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.scans import Scans
from millstone.texts.term_counts import TermCounts

_NAMING = {"lemmas", "stem", "case", "tag", "spare"}
"""Options under which the same words may have other names."""
_NOTES = 3
"""So many notes of the first combination are passed on."""


class VaryAnalysis(Analysis[VarySettings]):
    """Vary: would a result hold with other settings?"""

    runs_several = True
    may_find_nothing = True

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def further_schemas(self) -> tuple[Schema, ...]:
        """The schemas of two combinations, and of every row under every one."""
        return (moved_schema(), each())

    def columns(self, step: Step[VarySettings]) -> Collection[str]:
        """The columns that its table may have."""
        return moved_schema().names if len(self.steps_within(step)) == 2 else schema().names

    def validate_settings(self, step: Step[VarySettings]) -> Step[VarySettings]:
        """A command is named, and each combination of settings is one that it can be carried out under."""
        if step.command.of is None:
            raise UsageError(
                "vary: there is no command that is to be varied",
                f"name one of {listed(VARIED)}: millstone vary keyness INPUT... --over 'stop: en | none'",
            )
        every = combinations(step)
        if any(getattr(one.step.settings, "corrected_by", ()) for one in every):
            raise UsageError(
                "--corrected-by: corrected shares have intervals and no test, so that nothing would pass",
                "leave it out, and run contrast under each setting",
            )
        check_permuted(step, every)
        return step

    def steps_within(self, step: Step[VarySettings]) -> Sequence[Step[Any]]:
        """The steps of all combinations."""
        return [one.step for one in combinations(step)]

    def check(self, step: Step[VarySettings], made: Collection[Path]) -> None:
        """Each combination can be carried out, as far as that can be said without a text."""
        for one in combinations(step):
            try:
                check_before_reading(one.step, made)
            except MillstoneError as error:
                raise type(error)(f"combination {one.number} ({one}): {error.what}", error.remedy) from error

    def analyse_several(
        self, step: Step[VarySettings], texts: Scans, notes: list[str], drawing: DrawProgress
    ) -> tuple[ScannedTexts, Result]:
        """The texts of the first combination, and what becomes of each row over all of them."""
        settings = step.settings
        every = combinations(step)
        done = _Runs(step, every, texts, notes, drawing)
        rows = [done.rows[one.number] for one in every]
        commonest = [done.commonest[one.number] for one in every]
        grid = grid_of(every, rows, matched(rows, commonest))
        if len(every) == 2:
            table, made = _of_two(grid, done, notes, settings), moved_schema()
        else:
            table, made = across(grid), schema()
            notes.append(told(grid))
        if settings.permute:
            table = permuted(step, grid, table, done.materials, drawing, notes)
        if done.other_sizes:
            notes.append(f"what was read is told of combination 1 ({every[0]}); others have other sizes")
        form = rows[0].form
        made = joint_of(made, form)
        columns = columns_for(made, table.names, form, settings.first)
        result = Result(made.name, table, columns, done.sizes, step.typed, schema=made)
        if settings.each or step.chart.chart:
            of_each = each_row(grid)
            laid_out = joint_of(each(tuple(every[0].values)), form)
            result = result.with_table(
                "each", of_each, columns_for(laid_out, of_each.names, form, settings.first), laid_out
            )
        return done.material, result


class _Runs:
    """The results of all combinations, one carried out after the other.

    Parameters
    ----------
    step : Step
    every : sequence of Combination
    texts : Scans
        Those of the first combination; others are scanned apart, and given up when they are done with.
    notes : list of str
    drawing : callable
    """

    material: ScannedTexts
    sizes: tuple[GroupSize, ...]

    def __init__(
        self,
        step: Step[VarySettings],
        every: Sequence[Combination],
        texts: Scans,
        notes: list[str],
        drawing: DrawProgress,
    ) -> None:
        self.rows: dict[int, SettingRows] = {}
        self.commonest: dict[int, Mapping[str, str]] = {}
        self.counted: dict[int, TermCounts | None] = {}
        self.materials: dict[int, ScannedTexts] = {}
        self.other_sizes = False
        self._forms: dict[Any, Mapping[str, str]] = {}
        self._step, self._drawing = step, drawing
        self._is_of_two = len(every) == 2
        self._scanned = ScannedTexts(scan([]), Provenance(), Cleaned())
        own_texts, before = texts, texts_key(every[0].step)
        for one in in_order_of_work(every):
            if (key := texts_key(one.step)) != before:
                own_texts, before = Scans(texts.progress), key
            try:
                self._carry_out(one, own_texts, notes)
            except MillstoneError as error:
                raise type(error)(f"combination {one.number} ({one}): {error.what}", error.remedy) from error
        # the counts of the last combination
        del self._scanned

    def _carry_out(self, one: Combination, texts: Scans, notes: list[str]) -> None:
        """Carry out one combination; the notes on the first one go to `notes`."""
        settings, own, of_texts = self._step.settings, list[str](), list[str]()
        material = material_of(one.step, texts, of_texts)
        if self._scanned.corpus is not material.corpus:
            self._scanned = replace(material, remembered={})
        result = analysis_of(one.step).analyse(one.step, self._scanned, own, self._drawing)
        rows = rows_of(result, settings.level, settings.first)
        in_full = self._is_of_two or settings.each or self._step.chart.chart
        self.rows[one.number] = rows if in_full else rows.lean
        counted = _remembered(self._scanned, one.step)
        self.commonest[one.number] = self._commonest(one, counted)
        self.counted[one.number] = counted if self._is_of_two else None
        if settings.permute:
            self.materials[one.number] = material
        if one.number == 1:
            self.material, self.sizes = material, result.groups
            notes[:0] = of_texts
            notes += _first_notes(own)
        self.other_sizes |= [(size.name, size.tokens) for size in self.sizes] != [
            (size.name, size.tokens) for size in result.groups
        ]

    def _commonest(self, one: Combination, counted: TermCounts | None) -> Mapping[str, str]:
        """The forms by which terms of this combination are matched; none where all have the same names for words."""
        if counted is None or one.step.counted.count_field or not _NAMING & set(one.values):
            return {}
        key = (one.step.reading, one.step.preparation)
        if key not in self._forms:
            self._forms[key] = commonest_forms(counted.prepared)
        return self._forms[key]


def _remembered(material: ScannedTexts, step: Step[Any]) -> TermCounts | None:
    """The counts of a step's texts; None where it counts no terms."""
    found = (material.remembered or {}).get((step.preparation, step.counted))
    return found[0] if found else None


def _first_notes(notes: Sequence[str]) -> list[str]:
    """The notes of the first combination, as far as there is room for them."""
    every = list(dict.fromkeys(notes))
    found = [f"combination 1: {note}" for note in every[:_NOTES]]
    if len(every) > _NOTES:
        found.append(f"combination 1 has {len(every) - _NOTES} more notes; carried out alone it shows them")
    return found


def _of_two(grid: Grid, done: _Runs, notes: list[str], settings: VarySettings) -> Table:
    """The rows that moved between two combinations."""
    sides = [Side(one, done.counted[one.number], names) for one, names in zip(grid.every, grid.named, strict=True)]
    notes += [f"combination {one.number}: {one}" for one in grid.every]
    notes += of_lists(list(agreement(grid, settings.first)))
    if grid.is_tested:
        notes += [_passing(grid)]
    return moved(grid, Reasons(sides[0], sides[1]))


def _passing(grid: Grid) -> str:
    one, other = grid.passes.T
    both, first, second = int((one & other).sum()), int((one & ~other).sum()), int((other & ~one).sum())
    return f"{both:,} rows pass under both, {first:,} under the first only, {second:,} under the second only"


ANALYSIS = VaryAnalysis()
