"""Carrying out a whole study: everything is checked before anything is written."""

import re
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from html import unescape
from pathlib import Path
from typing import Any

from millstone.analyses.base.analysis import analysis_of, texts_of
from millstone.analyses.base.step import Step
from millstone.core.base.errors import DataError, MillstoneError
from millstone.core.base.wording import nearest_names
from millstone.outputs.disk.ledger import results_in
from millstone.outputs.files.writing import Outputs
from millstone.study.outputs import check_step, claim_outputs, files_read, files_written, is_input
from millstone.study.runner import Outcome, StepRunner
from millstone.study.study import Study
from millstone.texts.scans import Progress, Scans, needs_order


def chosen_steps(study: Study, names: tuple[str, ...]) -> Study:
    """The study with the steps named only: by name, by number, or by command, which means all its steps.

    Raises
    ------
    DataError
        For a name that no step has.
    """
    if not study.steps:
        raise DataError(f"the study {study.title!r} has no steps", "add a [[step]] with a command")
    known = {title_of(number, step): step for number, step in enumerate(study.steps, 1)}
    wanted = []
    for name in names:
        found = [
            step for number, step in enumerate(study.steps, 1) if name in (str(number), step.name, step.command.name)
        ]
        if not found:
            raise DataError(f"--step: there is no step {name!r}", f"the steps are {nearest_names(name, known)}")
        wanted += [step for step in found if step not in wanted]
    return replace(study, steps=tuple(wanted)) if names else study


def on_cluster(study: Study, address: str) -> Study:
    """The study with its texts read by the workers of the scheduler at an address, if there is one."""
    if not address:
        return study
    steps = (replace(step, work=replace(step.work, cluster=address)) for step in study.steps)
    return replace(study, steps=tuple(steps))


def title_of(number: int, step: Step[Any]) -> str:
    """``2 keyness``, with its name where it has one."""
    return f"{number} {step.command.name}{f' ({step.name})' if step.name else ''}"


def claim_study(study: Study, force: bool = False, more: Sequence[Path] = ()) -> Outputs:
    """Check all steps of a study and claim their outputs, and `more`, before any work.

    Raises
    ------
    MillstoneError
        Says where in the study file.
    """
    made: set[Path] = set()
    for step in study.steps:
        with _faults_of(step):
            check_step(step, made)
            made |= {path.resolve() for path in files_written(step)}
    inputs: list[Path] = []
    for step in study.steps:
        with _faults_of(step):
            # a table that an earlier step makes is read by a later one
            others = (path for path in files_read(step) if path.name not in results_in(path.parent))
            inputs += filter(Path.exists, others)
    force = force or any(step.output.force for step in study.steps)
    outputs = Outputs(
        force,
        protected=inputs,
        to_be_made=[study.output],
        is_input=lambda path: any(is_input(step, path) for step in study.steps),
    )
    for step in study.steps:
        with _faults_of(step):
            outputs.protect(files_read(step))
            claim_outputs(step, outputs)
    for path in more:
        outputs.claim(path)
    return outputs


def check_report(study: Study, path: Path) -> None:
    """Raise DataError where the report of another study has the name that this one's would have.

    `path` is that of the study file.
    """
    try:
        text = study.page.read_text("utf-8")
    except (OSError, ValueError):
        return
    other = re.search(r"<code>millstone run ([^<]+)</code>", text)
    if other and unescape(other[1]) != path.name:
        raise DataError(
            f"{study.page} is the report of another study, {unescape(other[1])}",
            'name this one\'s in its file: [study] report = "name.html"; or type --force',
        )


def carry_out_study(
    study: Study, outputs: Outputs, progress: Progress, for_report: bool = False
) -> Iterator[Outcome]:
    """Carry out the steps of a study in order, its outputs claimed before; all texts are read first.

    Raises
    ------
    MillstoneError
    """
    workshop = StepRunner(Scans(progress), for_report=for_report)
    in_order = any(needs_order(texts_of(step)) for step in study.steps)
    for step in study.steps:
        with _faults_of(step):
            if not step.command.looks_only:
                analysis_of(step).check_groups(step, workshop.texts.of(texts_of(step), in_order).corpus.groups)
    for step in study.steps:
        with _faults_of(step):
            outcome = workshop.carry_out(step, outputs, ordered=in_order)
        yield outcome


@contextmanager
def _faults_of(step: Step[Any]) -> Iterator[None]:
    """Adds the place in the study file to a fault of a step."""
    try:
        yield
    except MillstoneError as error:
        raise DataError(f"{step.where} ({step.command.name}): {error.what}", error.remedy) from error
