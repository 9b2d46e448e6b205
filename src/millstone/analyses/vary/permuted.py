"""The whole grid with groups at random: how often would as much be found if no group differed?"""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from millstone.analyses.base.analysis import DrawProgress, analysis_of, texts_of
from millstone.analyses.base.step import Step
from millstone.analyses.vary.across import Grid, median_effect, share_of
from millstone.analyses.vary.grid import Combination, in_order_of_work
from millstone.analyses.vary.rows import SettingRows, rows_of
from millstone.analyses.vary.settings import VarySettings
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import numbered
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.group_names import PAIRS, REST
from millstone.core.evidence.relabelling import AS_FAR, Relabelling, on_sides
from millstone.core.tables.table import Table
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.term_counts import TermCounts, count_texts

_OTHER = "the other side"
_CELLS = 20_000_000
_COMPARES = ("keyness", "logodds", "contrast", "collocates")


def check_permuted(step: Step[VarySettings], every: Sequence[Combination]) -> None:
    """Raise UsageError where ``--permute`` cannot be carried out.

    Parameters
    ----------
    step : Step
    every : sequence of Combination

    Raises
    ------
    UsageError
    """
    if not step.settings.permute:
        return
    command = step.command.of
    assert command is not None
    if command.name not in _COMPARES:
        raise UsageError(f"--permute: {command.name} compares no groups", "leave --permute out")
    if len(every) == 2:
        raise UsageError(
            "--permute: two combinations show what moved, without p", "leave --permute out, or vary more"
        )
    if step.counted.lists:
        raise UsageError("--permute puts documents into groups, and a frequency list has none", "give the texts")
    for one in every:
        if getattr(one.step.settings, "adjust_for", ()):
            raise UsageError(
                "--permute and --adjust-for: groups at random have no fields held equal", "leave one out"
            )
        if command.name == "collocates" and not one.step.settings.against_group:
            raise UsageError("--permute: nothing is compared between groups", "type --against-group pairs as well")


def permuted(
    step: Step[VarySettings],
    grid: Grid,
    table: Table,
    materials: Mapping[int, ScannedTexts],
    drawing: DrawProgress,
    notes: list[str],
) -> Table:
    """The table with how often its medians and shares come about with groups at random.

    Parameters
    ----------
    step : Step
    grid : Grid
    table : Table
        As `across` makes it.
    materials : mapping
        Number of a combination -> its texts.
    drawing : callable
        Called with the draws done, and how many there are.
    notes : list of str

    Returns
    -------
    Table
        With ``p_median`` and ``p_passes`` of the rows that pass under some combination, NaN for others.

    References
    ----------
    Simonsohn, U., Simmons, J. P. & Nelson, L. D. (2020). Specification curve analysis.
    """
    settings = step.settings
    lists: dict[tuple[str, ...], list[int]] = {}
    for row in np.flatnonzero(grid.passes.any(axis=1)).tolist():
        lists.setdefault(grid.matched.keys[row][:-1], []).append(row)
    p = np.full((2, len(grid.effect)), np.nan)
    compared = [_Redrawn(grid, rows, materials, settings) for rows in lists.values()]
    number = sum(min(one.labels.ways, settings.permute) for one in compared)
    done = 0
    for one in compared:
        seen = one.statistics(one.labels.seen)[:, :, 0]
        hits = np.zeros(seen.shape)
        for labels in one.labels.some(settings.permute, settings.seed, one.at_once):
            hits += (one.statistics(labels) >= (seen * AS_FAR)[:, :, None]).sum(axis=2)
            done += labels.shape[1]
            drawing(done, number)
        p[:, one.rows] = one.labels.p(hits, settings.permute)
        notes.append(one.told(settings.permute))
    at = {key: row for row, key in enumerate(grid.matched.keys)}
    names = (*grid.matched.blocks, "term")
    order = [at[key] for key in zip(*(table[name].tolist() for name in names), strict=True)]
    return table.with_columns({"p_median": p[0, order], "p_passes": p[1, order]})


class _Redrawn:
    """One comparison with its sampling units put on the two sides anew, under all combinations.

    Parameters
    ----------
    grid : Grid
    rows : sequence of int
        The rows of the grid that are asked about, all of one comparison.
    materials : mapping
        Number of a combination -> its texts.
    settings : VarySettings
    """

    def __init__(
        self, grid: Grid, rows: Sequence[int], materials: Mapping[int, ScannedTexts], settings: VarySettings
    ) -> None:
        self.rows = np.array(rows)
        self._grid, self._settings = grid, settings
        key = grid.matched.keys[rows[0]]
        self._named = dict(zip(grid.matched.blocks, key[:-1], strict=True))
        self.target, self.reference = self._named["target"], self._named["reference"]
        self._place = {grid.matched.keys[row][-1]: at for at, row in enumerate(rows)}
        self._sides = {number: self._of_documents(material, number) for number, material in materials.items()}
        self._materials = {
            number: replace(material, corpus=material.corpus.keep(self._sides[number][1] >= 0))
            for number, material in materials.items()
        }
        self._sides = {n: (names[sides >= 0], sides[sides >= 0]) for n, (names, sides) in self._sides.items()}
        self._row_of, self.labels = self._relabelling()

    @property
    def at_once(self) -> int:
        """How many draws are made before the next are counted anew."""
        return max(_CELLS // max(len(self.rows) * len(self._grid.every), 1), 1)

    def told(self, draws: int) -> str:
        """The number of draws and of units, in words."""
        ways = self.labels.ways
        counted = f"all {ways:,} ways" if ways <= draws else f"{draws:,} random ways"
        units = self.labels.n1 + self.labels.n2 - len(self.labels.pairs)
        return (
            f"p median and p passes of {self.target} and {self.reference}: {counted} to put "
            f"{numbered(units, 'sampling unit')} on the two sides, the whole grid each time"
        )

    def statistics(self, labels: np.ndarray) -> np.ndarray:
        """(2, rows, draws) the size of the median effect and the share that passes, of (units, draws) labels."""
        draws = labels.shape[1]
        effect = np.full((len(self.rows), len(self._grid.every), draws), np.nan, dtype=np.float32)
        passes = np.zeros(effect.shape, dtype=bool)
        place = {one.number: at for at, one in enumerate(self._grid.every)}
        remembered: dict[Any, Any] = {}
        corpus = None
        for one in in_order_of_work(self._grid.every):
            material = self._materials[one.number]
            if material.corpus is not corpus:
                corpus, remembered = material.corpus, {}
            for draw in range(draws):
                found = self._analysed(one, labels[:, draw], remembered)
                self._put(found, place[one.number], effect[:, :, draw], passes[:, :, draw])
        return np.stack(
            [_sizes(effect[:, :, d], passes[:, :, d], self._grid.is_signed) for d in range(draws)], axis=2
        )

    def _of_documents(self, material: ScannedTexts, number: int) -> tuple[np.ndarray, np.ndarray]:
        """(documents,) the sampling unit of each, and its side: 0, 1, or -1 for neither."""
        documents = material.corpus.documents
        one = next(one for one in self._grid.every if one.number == number)
        field = getattr(one.step.settings, "sampling_unit", "")
        groups = documents["group"].tolist()
        # two texts of one name in different groups are two
        names: list[object] = list(
            zip(groups, documents["part_of" if "part_of" in documents else "document"].tolist(), strict=True)
        )
        if field and field in documents:
            cells = (str(cell).strip() for cell in documents[field].tolist())
            names = [cell or name for cell, name in zip(cells, names, strict=True)]
        found = np.empty(len(names), dtype=object)
        found[:] = names
        sides = [0 if g == self.target else 1 if self.reference in (g, REST) else -1 for g in groups]
        return found, np.array(sides, dtype=np.int64)

    def _relabelling(self) -> tuple[dict[int, np.ndarray], Relabelling]:
        """Combination -> the row of each document's unit among the labels; and the ways to put units on the sides."""
        known: dict[object, int] = {}
        units = [known.setdefault(name, len(known)) for names, _ in self._sides.values() for name in names.tolist()]
        sides = [own for _, own in self._sides.values()]
        row, labels = on_sides(np.concatenate(sides), np.array(units, dtype=np.int64))
        ends = np.cumsum([len(own) for own in sides])[:-1]
        return dict(zip(self._sides, np.split(row, ends), strict=True)), labels

    def _analysed(self, one: Combination, labels: np.ndarray, remembered: dict[Any, Any]) -> SettingRows:
        """The rows of a combination with its documents on the sides that the labels of their units say."""
        material = self._materials[one.number]
        on_first = labels[self._row_of[one.number]] == 1
        groups = np.where(on_first, self.target, _OTHER).astype(object)
        documents = material.corpus.documents.with_columns({"group": groups})
        corpus = replace(material.corpus, documents=documents, groups=(self.target, _OTHER))
        key = (one.step.preparation, one.step.counted)
        if key not in remembered and one.step.command.name != "contrast":
            remembered.clear()
            remembered[key] = count_texts(texts_of(one.step), material, [])
        own: dict[Any, Any] | None = (
            {key: (_with_groups(remembered[key], documents, corpus), [])} if key in remembered else None
        )
        step = replace(one.step, settings=_between_two(one.step.settings))
        result = analysis_of(step).analyse(step, replace(material, corpus=corpus, remembered=own), [], _silent)
        return rows_of(result, self._settings.level, self._settings.first)

    def _put(self, found: SettingRows, at: int, effect: np.ndarray, passes: np.ndarray) -> None:
        """Put the rows of one combination into their column."""
        named = self._grid.named[at]
        lists = [dict(zip(found.blocks, names, strict=True)) for names in found.lists]
        wanted_lists = [
            names.get("target") == self.target
            and all(
                names[name] == value
                for name, value in self._named.items()
                if name in ("group", "node") and value not in (self.target, self.reference)
            )
            for names in lists
        ]
        own = np.array(wanted_lists)[found.list_of]
        rows = [self._place.get(named.get(term, term), -1) for term in found.terms.tolist()]
        wanted = np.array(rows, dtype=np.int64)
        chosen = np.flatnonzero(own & (wanted >= 0))
        effect[wanted[chosen], at] = found.effect[chosen]
        passes[wanted[chosen], at] = found.passes[chosen]


def _silent(done: int, number: int) -> None:
    """Draws within a combination are not told of."""


def _sizes(effect: np.ndarray, passes: np.ndarray, is_signed: bool) -> np.ndarray:
    """(2, rows) the size of the median effect, and the share that passes in its direction."""
    size = np.nan_to_num(np.abs(median_effect(effect)))
    return np.stack((size, share_of(effect, passes, is_signed)))


def _with_groups(counted: TermCounts, documents: Table, corpus: Corpus) -> TermCounts:
    """Counts of the same texts in other groups."""
    of_sizes = {n: replace(one, documents=documents, groups=corpus.groups) for n, one in counted.counted.items()}
    return replace(counted, prepared=replace(counted.prepared, corpus=corpus), counted=of_sizes)


def _between_two(settings: Any) -> Any:
    """The settings of a comparison of the first of two groups with the second."""
    if hasattr(settings, "against_group"):
        return replace(settings, against_group=PAIRS)
    return replace(settings, against=PAIRS)
