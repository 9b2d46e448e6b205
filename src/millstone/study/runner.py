"""Carrying out a step: claim its outputs, read and scan its texts, analyse, write."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from millstone.analyses.base.analysis import DrawProgress, analysis_of, figures_of
from millstone.analyses.base.reading import analysed
from millstone.analyses.base.step import Step
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.read_errors import check_room
from millstone.core.base.wildcards import literal_signs
from millstone.core.base.wording import listed, numbered
from millstone.core.corpus.group_names import groups_alike
from millstone.core.scan.scan import scan
from millstone.core.tables.matrix_result import MatrixResult
from millstone.core.tables.result import Result
from millstone.outputs.charts.settings import MOST_DRAWN, OF_PAGE
from millstone.outputs.files.formats.matrix import dense_size
from millstone.outputs.files.formats.table import like_formulas
from millstone.outputs.files.names import file_names
from millstone.outputs.files.rows import arrange, as_called, chosen_columns, first_rows
from millstone.outputs.files.writing import Outputs
from millstone.study.outputs import add_tables, is_folder
from millstone.study.record.replaced import in_figure, replaced
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.scans import Scans

if TYPE_CHECKING:
    from millstone.core.dictionary.marked_text import MarkedTexts
    from millstone.outputs.charts.draw import Drawn

_LARGE = 1_000_000_000


@frozen
class Outcome:
    """The outcome of a step: its result, whole and with rows chosen; files written, notes, marked texts to show.

    `figure` is what was drawn, where it is wanted for a report.
    """

    step: Step[Any]
    material: ScannedTexts
    result: Result
    chosen: Result
    written: tuple[Path, ...]
    notes: tuple[str, ...]
    marked: "MarkedTexts | None" = None
    figure: "Drawn | None" = None


@dataclass
class StepRunner:
    """Carries out steps, with `texts` that they share.

    `drawing` is called with the random draws done and how many there are; with `for_report` figures are drawn for a
    page as well.
    """

    texts: Scans = field(default_factory=Scans)
    warn: Callable[[str], None] = lambda text: None
    drawing: DrawProgress = lambda done, of: None
    for_report: bool = False

    def carry_out(self, step: Step[Any], outputs: Outputs, ordered: bool = False) -> Outcome:
        """Carry out one step.

        Parameters
        ----------
        step : Step[Any]
        outputs : Outputs
            Where the step's outputs were claimed before (`claim_outputs`).
        ordered : bool
            Keep the order of words even if this step does not need it, for a later one.

        Raises
        ------
        MillstoneError
        """
        if step.command.looks_only:
            return self._checked(step, outputs)
        step = replace(step, output=as_called(step.output, analysis_of(step).schema().also_called))
        notes = list(replaced(step))
        material, result = analysed(step, self.texts, notes, self.drawing, ordered)
        if material.not_near:
            result = replace(result, left_out={"around": material.not_near, **result.left_out})
        sort = "" if analysis_of(step).sorts_itself(step) else step.output.sort
        had_rows = len(result.table) > 0
        result = arrange(result, replace(step.output, sort=sort))
        if had_rows and not len(result.table) and (signs := literal_signs(step.output.match)):
            notes.append(f"--match: no term fits{signs}")
        for alike in groups_alike([size.name for size in result.groups]):
            notes.append(
                f"the groups {listed(map(repr, alike.names))} differ only in {alike.in_what}: {alike.remedy}"
            )
        chosen = first_rows(result, step.output.top)
        self._warn_of_size(step, result)
        if analysis_of(step).appends_to_input_table(step):
            # workbooks and tables as they were given are read anew for --keep-all alone
            from millstone.analyses.base.aligned_table import with_given_rows

            chosen = with_given_rows(step, chosen, notes)
        self._note_formulas(step, chosen, notes)
        add_tables(step, chosen, material.provenance, outputs)
        marked = analysis_of(step).mark(step, outputs, self.texts.progress)
        chosen = replace(chosen, table=chosen_columns(chosen.table, step.output.columns))
        figure = self._draw(step, result, notes, outputs)
        return Outcome(step, material, result, chosen, tuple(outputs.commit()), tuple(notes), marked, figure)

    def _draw(self, step: Step[Any], result: Result, notes: list[str], outputs: Outputs) -> "Drawn | None":
        """The figure that was asked for, added to the outputs."""
        if not step.chart.chart:
            return None
        if not len(result.table) and analysis_of(step).may_find_nothing:
            notes.append(f"{step.chart.chart} was not drawn: there is nothing to draw")
            return None
        check_room()
        # the plotting library takes half a second to import, and most runs draw nothing
        from millstone.outputs.charts import draw

        if step.output.top and not step.chart.chart_top:
            # the figure follows the table
            step = replace(step, chart=replace(step.chart, chart_top=min(step.output.top, MOST_DRAWN)))
        figures, about = figures_of(step.command, result.command), in_figure(step.command.name, step.inputs.input)
        if is_folder(step.chart.chart):
            for path, part in _by_list(result, Path(step.chart.chart)):
                outputs.claim(path)
                outputs.add(
                    path, draw.drawn(part, step.chart, figures, [path.suffix], notes, about).contents[path.suffix]
                )
            notes[:] = dict.fromkeys(notes)
            return None
        path = Path(step.chart.chart)
        ending = path.suffix.lower()
        endings = [ending, *([OF_PAGE] if self.for_report else [])]
        drawn = draw.drawn(result, step.chart, figures, endings, notes, about)
        outputs.add(path, drawn.contents[ending])
        return drawn if self.for_report else None

    def _checked(self, step: Step[Any], outputs: Outputs) -> Outcome:
        """A step that checks the texts: what looks wrong is among the notes."""
        # the one command that looks for faults imports what finds them
        from millstone.analyses.check.compute import check

        checked = check(step, self.texts.progress)
        if checked.findings and step.work.strict:
            first = checked.findings[0]
            raise DataError(f"{numbered(len(checked.findings), 'thing')} wrong: {first.what}", first.remedy)
        material = ScannedTexts(scan([]), checked.provenance, checked.cleaned, checked.too_short)
        notes = [*checked.provenance.notes]
        notes += [f"looks wrong: {one.what} (to fix it: {one.remedy})" for one in checked.findings]
        add_tables(step, checked.result, checked.provenance, outputs)
        return Outcome(step, material, checked.result, checked.result, tuple(outputs.commit()), tuple(notes))

    def _note_formulas(self, step: Step[Any], chosen: Result, notes: list[str]) -> None:
        """Note that a spreadsheet may run cells of a table, which as data stay what they are."""
        output = step.output.output
        if output.lower().endswith((".csv", ".tsv", "/")) and (number := like_formulas(chosen.table)):
            notes.append(
                f"{numbered(number, 'cell')} of {output} {'begins' if number == 1 else 'begin'} with =, +, - or @, "
                "which a spreadsheet may take for a formula; .xlsx keeps them as text"
            )

    def _warn_of_size(self, step: Step[Any], result: Result) -> None:
        if isinstance(result, MatrixResult) and step.output.output.lower().endswith((".csv", ".tsv")):
            size = dense_size(result.matrix)
            if size > _LARGE:
                self.warn(f"{step.output.output} will take about {size / 1e9:,.1f} GB; as .mtx it takes far less")


def _by_list(result: Result, folder: Path) -> Iterator[tuple[Path, Result]]:
    """A figure's path for each list or comparison of a result, and the part that it draws."""
    if not result.lists:
        raise UsageError(
            f"--chart {folder}: this table has no groups to split", "name a file instead, such as figure.png"
        )
    parts = list(result.table.by(result.lists))
    names = file_names([" against ".join(map(str, values)) for values, _ in parts])
    for name, (_, table) in zip(names, parts, strict=True):
        yield folder / f"{name}.png", replace(result, table=table)
