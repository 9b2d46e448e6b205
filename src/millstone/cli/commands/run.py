"""The command run: carry out all steps of a study file."""

import os
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

from millstone.analyses.base.settings_line import settings_line
from millstone.cli.options import one_input
from millstone.cli.terminal.console import Progress, put, say
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import listed, numbered
from millstone.core.settings.declare import build
from millstone.core.settings.output import Output
from millstone.core.settings.program import RunSettings
from millstone.outputs.disk.trusted import is_trusted
from millstone.study.outputs import files_written
from millstone.study.record.bundle import bundle
from millstone.study.record.files import StudyFiles
from millstone.study.record.report import Report
from millstone.study.record.summary import summary
from millstone.study.study_file import read_study
from millstone.study.study_run import carry_out_study, check_report, chosen_steps, claim_study, on_cluster, title_of
from millstone.study.trust import check_trust, named_outside

if TYPE_CHECKING:
    from millstone.outputs.files.writing import Outputs
    from millstone.study.record.files import StudyFiles
    from millstone.study.record.report import Report
    from millstone.study.study import Study


def run(typed: Mapping[str, Any]) -> None:
    """Carry out a study file.

    Raises
    ------
    MillstoneError
    """
    study = one_input(typed, "run takes one study file", "type millstone run study.toml")
    carry_out(study, build(Output, typed), build(RunSettings, typed), typed.get("cluster", ""))


def _list_outside(named: list[str]) -> None:
    """Print what a study names outside its folder, line by line."""
    if named:
        put("\n".join(["outside its folder the study", *(f"   {one}" for one in named)]))


def _plan(study: "Study") -> list[str]:
    """The plan of a study: what each step would do and write."""
    lines = []
    for number, step in enumerate(study.steps, 1):
        lines.append(f"{title_of(number, step)}: {step.command.question}")
        lines.append(f"   reads {', '.join(step.inputs.input)}")
        lines += [f"   settings: {settings_line(step.typed, step.command)}"] if step.typed else []
        written = [str(path) for path in files_written(step)]
        lines.append(f"   would write {', '.join(written)}" if written else "   writes nothing: it has no output")
    return lines


def carry_out(
    path: Path, output: Output, settings: RunSettings | None = None, cluster: str = ""
) -> dict[str, list[str]]:
    """Carry out a study file and return, by question, the tables and figures that were written.

    `cluster` is the address of a scheduler whose workers read the texts.
    """
    settings = settings or RunSettings()
    whole = read_study(path)
    for note in whole.notes:
        say(f"note: {note}")
    outside = named_outside(whole, path)
    study = on_cluster(chosen_steps(whole, settings.step), cluster)
    if settings.dry_run:
        _list_outside(outside)
    if settings.dry_run and not is_trusted(path, outside):
        put("\n".join(_plan(study)))
        say("note: what lies outside the folder is not opened before the study is trusted; nothing else was checked")
        return {}
    check_trust(path, outside, settings.trust)
    # of some steps only there would be half a report
    reports = settings.report and not settings.step
    if reports and not output.force:
        check_report(study, path)
    more = [study.page] if reports else []
    more += _bundle_of(settings)
    outputs = claim_study(study, output.force, more)
    if not output.quiet:
        say(f"{study.title}: {numbered(len(study.steps), 'step')}")
    if outside and not settings.dry_run and not output.quiet:
        say(f"note: outside its folder the study {listed(outside, between='; ')}; it was trusted with that")
    if settings.dry_run:
        put("\n".join([*_plan(study), *(f"would write {file}" for file in more)]))
        return {}
    written = _written(study, path, output, settings, outputs, reports)
    if more and not output.quiet:
        say("", f"wrote {', '.join(map(str, more))}")
    return written


def _written(
    study: "Study", path: Path, output: Output, settings: RunSettings, outputs: "Outputs", reports: bool
) -> dict[str, list[str]]:
    """Carry out the steps, and then write the report and the bundle."""
    progress = Progress(shown=not output.quiet)
    files = StudyFiles(study, path)
    report = _report_of(study, files) if reports else None
    written: dict[str, list[str]] = {"the report: all of it on one page": []} if reports else {}
    for number, outcome in enumerate(carry_out_study(study, outputs, progress, reports), 1):
        progress.close()
        question = outcome.step.command.question
        to_look_at = [os.path.relpath(file, path.parent) for file in outcome.written if file.suffix != ".json"]
        written.setdefault(question, []).extend(to_look_at)
        files.add(outcome)
        if report:
            report.add(outcome)
        if not output.quiet:
            say("", f"{number}. {outcome.step.command.name}: {question}")
            for line in summary(outcome):
                say(f"   {line}")
            if not outcome.written:
                say("   wrote nothing: the step has no output")
    if report:
        outputs.add(study.page, report.page())
        files.written += outputs.commit()
        next(iter(written.values())).append(os.path.relpath(study.page, path.parent))
    if settings.bundle:
        outputs.add(Path(settings.bundle), bundle(files, settings.with_inputs))
        outputs.commit()
    return written


def _bundle_of(settings: RunSettings) -> list[Path]:
    if settings.with_inputs and not settings.bundle:
        raise UsageError("--with-inputs says what a bundle holds, and there is no --bundle", "add --bundle FILE.zip")
    if not settings.bundle:
        return []
    path = Path(settings.bundle)
    if settings.step:
        raise UsageError("--bundle holds a whole study, and --step chooses some steps", "leave one of the two out")
    if path.suffix.lower() != ".zip":
        raise UsageError(f"--bundle: {path.name} does not end in .zip", "type --bundle FILE.zip")
    return [path]


def _report_of(study: "Study", files: "StudyFiles") -> "Report":
    # what makes pages is not needed without one

    return Report(study, files)
