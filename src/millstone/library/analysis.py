"""The result of a function of the library: its table, its meaning, and ways to draw and save it."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Any

import pandas as pd

from millstone.analyses.base.analysis import analysis_of, figures_of
from millstone.analyses.base.reading import analysed
from millstone.analyses.base.step import Step
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import numbered
from millstone.core.corpus.corpus import GroupSize
from millstone.core.settings.declare import build, declared
from millstone.core.tables.columns import Column
from millstone.core.tables.result import Result
from millstone.study.outputs import claimed, save
from millstone.study.runner import Outcome, StepRunner

if TYPE_CHECKING:
    from matplotlib.figure import Figure

_SHOWN = 10


@dataclass(frozen=True)
class Analysis:
    """The result of an analysis.

    It shows itself as a table in a notebook.

    Attributes
    ----------
    frame : DataFrame
        One row per observation, in the order to be read, at full precision.
    columns : mapping
        Column name -> its title, meaning, unit and datatype.
    notes : tuple of str
        What to bear in mind.
    settings : mapping
        The settings in force that are not defaults, as they would be typed.
    groups : tuple
        The groups, with their documents and tokens.
    tables : mapping
        Name -> a further table, where one was asked for.
    """

    frame: pd.DataFrame
    columns: Mapping[str, Column]
    notes: tuple[str, ...]
    settings: Mapping[str, object]
    groups: tuple[GroupSize, ...]
    tables: Mapping[str, pd.DataFrame]
    _step: Step[Any] = field(repr=False)
    _outcome: Outcome = field(repr=False)
    _workshop: StepRunner = field(repr=False)
    # texts that were given in memory lie here as long as the result lives
    _folder: TemporaryDirectory[str] = field(repr=False)

    def chart(self, kind: str = "", **settings: Any) -> "Figure":
        """Draw the result.

        Parameters
        ----------
        kind : str
            One of the kinds that the help of the command lists; its usual one if left out.
        **settings
            ``chart_top``, ``chart_title``, ``chart_colors`` and what else the command knows of figures.

        Returns
        -------
        Figure
            Of Matplotlib.

        Raises
        ------
        MillstoneError
            When there is no such figure, or nothing to draw.
        """
        # the plotting library takes half a second to import
        from millstone.outputs.charts.draw import drawn

        charts = self._step.command.charts
        if charts is None:
            raise UsageError(f"there is no chart of {self._step.command.name}", "save the table instead")
        known = declared(charts)
        if unknown := next((name for name in settings if name not in known), ""):
            raise UsageError(f"there is no setting {unknown!r} of figures", f"known are {', '.join(known)}")
        values = {name: known[name].metadata["kind"].accept(_listed(value)) for name, value in settings.items()}
        chart = replace(build(charts, values), chart="figure.png", **({"chart_kind": kind} if kind else {}))
        result = self._with_all_tables(replace(self._step, chart=chart))
        return drawn(result, chart, figures_of(self._step.command, result.command), (), []).figure

    def _with_all_tables(self, step: Step[Any]) -> Result:
        """The result again, with the tables that a figure is made of."""
        if step.command.looks_only:
            return self._outcome.result
        return analysed(step, self._workshop.texts, [], lambda done, of: None)[1]

    def save(self, path: str | Path, force: bool = False) -> list[Path]:
        """Save the table as the ending of the path says, with what its columns mean beside it.

        Returns
        -------
        list of Path
            The files that were written.

        Raises
        ------
        MillstoneError
            When the file is there already and is not one of millstone's own, unless by `force`.
        """
        output = replace(self._step.output, output=str(path), force=force)
        bare = dict.fromkeys((*self._step.command.tables, *self._step.command.files), "")
        step = replace(self._step, output=output, settings=replace(self._step.settings, **bare))
        outputs = claimed(replace(step, chart=replace(step.chart, chart="")))
        result = replace(self._outcome.chosen, tables={}, files={})
        return save(step, result, self._outcome.material.provenance, outputs)

    def __repr__(self) -> str:
        return "\n".join([self._heading(), str(self._first())])

    def _repr_html_(self) -> str:
        # pandas escapes what the cells hold
        heading = pd.DataFrame({self._heading(): []}).to_html(index=False, border=0)
        found: str = heading + self._first().to_html(index=False, border=0)
        return found

    def _heading(self) -> str:
        notes = f"; {numbered(len(self.notes), 'note')}" if self.notes else ""
        return f"{self._step.command.name}: {numbered(len(self.frame), 'row')}{notes}"

    def _first(self) -> pd.DataFrame:
        """The first rows of each list, with the columns that matter first."""
        blocks = [name for name in analysis_of(self._step).schema().blocks if name in self.frame.columns]
        shown = [name for name in analysis_of(self._step).schema().shown if name in self.frame.columns]
        rows = self.frame.groupby(blocks, sort=False).head(_SHOWN) if blocks else self.frame.head(_SHOWN)
        return rows[[*blocks, *shown]] if shown else rows


def _listed(value: Any) -> Any:
    return list(value) if isinstance(value, tuple) else value
