"""Carrying out a step: claim its outputs, read and scan its texts, analyse, write."""

import os
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path

import pandas as pd

from millstone.charts.settings import ENDINGS as FIGURES
from millstone.core.cleaning import Cleaned, clean
from millstone.core.corpus import Corpus, Document
from millstone.core.errors import DataError, UsageError
from millstone.core.repeats import Repeats
from millstone.core.result import Result
from millstone.core.scan import scan
from millstone.core.textunits import cut_text
from millstone.core.units import cut_corpus, with_positions
from millstone.core.wording import numbered
from millstone.results.companion import WITH_COMPANION, companion_bytes, companion_path
from millstone.results.formats import FORMATS, as_bytes, check_ending
from millstone.results.matrix import ENDINGS as MATRIX_ENDINGS
from millstone.results.matrix import SPARSE, all_columns, dense_size, matrix_files, names_beside
from millstone.results.names import file_names
from millstone.results.rows import arrange, blocks_of, chosen_columns, first_rows
from millstone.results.writing import Outputs, make_folder
from millstone.sources.files import hashed
from millstone.sources.provenance import Provenance
from millstone.sources.reader import all_files, input_paths, read_documents
from millstone.study.analyses import analyse
from millstone.study.key_dictionary import as_dictionary
from millstone.study.listed import material_of_lists
from millstone.study.material import Material
from millstone.study.model import Step

Progress = Callable[[int, int], None]

_LARGE = 1_000_000_000
# as many bytes of text as the file has
_FLAT = (".txt", ".text", ".md", ".csv", ".tsv", ".jsonl")


@dataclass(frozen=True)
class Outcome:
    """What a step came to: its whole result, the same with the rows chosen, the files written, and notes."""

    step: Step
    material: Material
    result: Result
    chosen: Result
    written: tuple[Path, ...]
    notes: tuple[str, ...]


@dataclass
class Workshop:
    """Carries out steps; texts that several steps share are read and scanned once.

    `progress` is told of bytes read and tokens counted, `drawing` of random draws done and how many there are.
    """

    progress: Progress = lambda size, tokens: None
    warn: Callable[[str], None] = lambda text: None
    drawing: Progress = lambda done, of: None
    _scanned: dict[tuple[object, ...], Material] = field(default_factory=dict)

    def carry_out(self, step: Step, outputs: Outputs, ordered: bool = False) -> Outcome:
        """Carry out one step.

        Parameters
        ----------
        step : Step
        outputs : Outputs
            Where the step's outputs were claimed before (`claim_outputs`).
        ordered : bool
            Keep the order of words even if this step does not need it, for a later one.

        Raises
        ------
        MillstoneError
        """
        material = self.material(step, ordered)
        notes = list(material.provenance.notes)
        result = analyse(step, material, notes, self.drawing)
        result = replace(result, frame=arrange(result.frame, step.command.name, step.output))
        frame = first_rows(result.frame, step.command.name, step.output.top)
        chosen = replace(result, frame=frame)
        self._warn_of_size(step, result)
        if dictionary_of(step):
            content, passed_over = as_dictionary(result.key_terms, f"key terms: {' '.join(step.inputs.input)}")
            outputs.add(Path(dictionary_of(step)), content)
            if passed_over:
                notes.append(f"{numbered(passed_over, 'key term')} with * ? or ! left out of the dictionary")
        _add_tables(step, chosen, material.provenance, outputs)
        shown = chosen_columns(chosen.frame, step.output.columns)
        chosen = replace(chosen, frame=shown)
        if step.chart.chart:
            # a plotting library costs half a second to import, and most runs draw nothing
            from millstone.charts import draw

            outputs.add(Path(step.chart.chart), draw.chart_bytes(result, step.chart, notes))
        return Outcome(step, material, result, chosen, tuple(outputs.commit()), tuple(notes))

    def _warn_of_size(self, step: Step, result: Result) -> None:
        if result.matrix is not None and step.output.output.lower().endswith((".csv", ".tsv")):
            size = dense_size(result.matrix)
            if size > _LARGE:
                self.warn(f"{step.output.output} will take about {size / 1e9:,.1f} GB; as .mtx it takes far less")

    def material(self, step: Step, ordered: bool = False) -> Material:
        """The scanned texts of a step, without its documents that are too short.

        Raises
        ------
        MillstoneError
        """
        if step.counted.lists:
            return material_of_lists(step)
        preparation = step.preparation
        ordered = ordered or step.command.ordered or needs_order(step)
        # a dictionary never sees marks of punctuation
        marks = preparation.punctuation == "keep" and not step.command.ordered
        repeats = Repeats() if step.command.name == "profile" else None
        key = (step.inputs, step.reading, _text_rules(step), marks, ordered, repeats is None)
        if key not in self._scanned:
            self._scanned[key] = self._kept_or_new(step, ordered, marks, repeats)
        return _long_enough(self._scanned[key], step)

    def _kept_or_new(self, step: Step, ordered: bool, marks: bool, repeats: Repeats | None) -> Material:
        name = ""
        if step.work.cache:
            # few runs need what keeping takes, and none that finds nothing kept
            from millstone.study import kept

            settings = {"preparation": _text_rules(step), "marks": marks, "repeats": repeats is not None}
            name = kept.key_of(step, settings, step.work.strict)
            found = kept.load(name, ordered) if name else None
            if found is not None:
                return found
        start = time.monotonic()
        provenance, cleaned = Provenance(), Cleaned()
        documents = documents_of(step, provenance, cleaned)
        documents = repeats.watch(documents) if repeats else documents
        corpus, too_short = scan_step(step, documents, ordered, self.progress, marks)
        corpus = corpus.in_order([*step.reading.order, *provenance.groups])
        _note_odd_documents(corpus, provenance)
        material = Material(corpus, provenance, cleaned, too_short, repeats or Repeats())
        if name and time.monotonic() - start > kept.SECONDS:
            return kept.save(name, material)
        return material


def _text_rules(step: Step) -> tuple[object, ...]:
    """What of the preparation matters before terms are made."""
    preparation = step.preparation
    cleaning = (preparation.drop_repeats, preparation.drop_running, preparation.cut, preparation.mend)
    return (*cleaning, preparation.tokens, _least_whole(step))


def needs_order(step: Step) -> bool:
    """Whether preparation or the unit of a step look at the order of words."""
    preparation = step.preparation
    of_ngrams = preparation.ngram != (1, 1)
    return (
        bool(preparation.phrases) or step.knows_names or of_ngrams or step.shows_growth or step.reading.unit.by_tokens
    )


def documents_of(step: Step, provenance: Provenance, cleaned: Cleaned) -> Iterator[Document]:
    """The documents of a step, cleaned as its preparation says; `provenance` is told of them once."""
    # lines that recur are looked for in a reading of their own, of which nothing is told
    told = iter([Provenance(), provenance] if step.preparation.drop_running else [provenance])

    def read() -> Iterator[Document]:
        return read_documents(step.inputs.input, step.reading, next(told))

    unit = step.reading.unit
    if unit.kind == "whole" or unit.by_tokens:
        return clean(read, step.preparation, cleaned)
    return clean(read, step.preparation, cleaned, lambda document: cut_text(document, unit.kind, unit.between))


def scan_step(
    step: Step, documents: Iterator[Document], ordered: bool, progress: Progress, marks: bool = False
) -> tuple[Corpus, int]:
    """The documents scanned, and cut as the unit says; and how many were too short to be cut."""
    unit = step.reading.unit
    jobs = step.work.jobs or _processors()
    corpus = scan(documents, ordered or unit.by_tokens, progress, step.preparation.tokens, marks, jobs)
    long_enough = corpus.tokens >= _least_whole(step)
    corpus = corpus.keep(long_enough)
    if unit.by_tokens:
        corpus = cut_corpus(corpus, unit.kind, unit.size)
    return with_positions(corpus), int((~long_enough).sum())


def _processors() -> int:
    # those that this process may use, where the system tells
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


def _least_whole(step: Step) -> int:
    """How long a text must be before it is cut into equal pieces; otherwise it is the pieces that are measured."""
    return step.preparation.min_tokens if step.reading.unit.size else 0


def least_tokens(step: Step) -> int:
    """How many tokens a document must have."""
    return 0 if step.reading.unit.size else step.preparation.min_tokens


def _note_odd_documents(corpus: Corpus, provenance: Provenance) -> None:
    names = corpus.documents["document"]
    empty = names[corpus.tokens == 0].tolist()
    if empty:
        provenance.note(f"{_such_as(empty)} without words: counted in documents, with no part in rates by document")
    again = names[names.duplicated()].tolist()
    if again:
        provenance.note(f"{_such_as(again)} with the name of another")


def _such_as(names: list[str]) -> str:
    return f"{numbered(len(names), 'document')} ({names[0]}{', ...' if len(names) > 1 else ''})"


def _long_enough(material: Material, step: Step) -> Material:
    wanted = material.corpus.tokens >= least_tokens(step)
    too_short = material.too_short + int((~wanted).sum())
    kept = replace(material, corpus=material.corpus.keep(wanted), too_short=too_short)
    if not material.corpus.tokens.sum() and not material.too_short:
        scanned = [note for note in material.provenance.notes if "(OCR)" in note]
        raise DataError(
            f"there are no words in {', '.join(step.inputs.input)}",
            scanned[0] if scanned else "check the files and the text column",
        )
    if not kept.corpus.tokens.sum():
        longest = f": the longest has {int(material.corpus.tokens.max()):,} tokens" if len(wanted) else ""
        raise DataError(
            f"--min-tokens {step.preparation.min_tokens} leaves no document{longest}", "choose a smaller number"
        )
    unknown = [name for name in step.reading.order if name not in kept.corpus.groups]
    if unknown:
        raise DataError(
            f"--order names no group of the texts: {', '.join(unknown)}",
            f"the groups are {', '.join(kept.corpus.groups)}",
        )
    return kept


def claim_outputs(step: Step, outputs: Outputs) -> None:
    """Claim the files a step will write, before any work.

    Raises
    ------
    MillstoneError
        When one of them must not be written.
    """
    if step.output.output and not is_folder(step.output.output):
        path = Path(step.output.output)
        of_matrix = step.command.name == "matrix"
        check_ending(path, MATRIX_ENDINGS if of_matrix else tuple(FORMATS), "-o")
        outputs.claim(path)
        for beside in names_beside(path) if path.suffix.lower() == SPARSE else ():
            outputs.claim(beside)
        if path.suffix.lower() in WITH_COMPANION:
            outputs.claim(companion_path(path))
    if dictionary_of(step):
        check_ending(Path(dictionary_of(step)), (".toml",), "--as-dictionary")
        outputs.claim(Path(dictionary_of(step)))
    if step.chart.chart:
        path = Path(step.chart.chart)
        check_ending(path, FIGURES, "--chart")
        outputs.claim(path)


def dictionary_of(step: Step) -> str:
    """The file that key terms are written to as a dictionary, if any."""
    return str(getattr(step.settings, "as_dictionary", ""))


def is_folder(output: str) -> bool:
    """Whether an output is a folder, into which each group gets a file of its own."""
    return output.endswith(("/", os.sep)) or Path(output).is_dir()


def _add_tables(step: Step, result: Result, provenance: Provenance, outputs: Outputs) -> None:
    """The table as the file that was named, or a file a group in the folder that was named."""
    if not step.output.output:
        return
    folder = Path(step.output.output)
    if result.matrix is not None:
        _add_matrix(step, result, folder, provenance, outputs)
        return
    if not is_folder(step.output.output):
        _add_table(step, result, folder, provenance, outputs)
        return
    blocks = blocks_of(result.frame, result.command)
    if not blocks:
        raise UsageError(f"-o {folder}: this table has no groups to part", "name a file instead, such as table.csv")
    parts = list(result.frame.groupby(blocks, sort=False))
    names = file_names([" against ".join(map(str, values)) for values, _ in parts])
    make_folder(folder)
    for name, (_, frame) in zip(names, parts, strict=True):
        path = folder / f"{name}.csv"
        outputs.claim(path)
        outputs.claim(companion_path(path))
        _add_table(step, replace(result, frame=frame.reset_index(drop=True)), path, provenance, outputs)


def _add_table(step: Step, result: Result, path: Path, provenance: Provenance, outputs: Outputs) -> None:
    result = replace(result, frame=chosen_columns(result.frame, step.output.columns))
    outputs.add(path, as_bytes(result, path, step.reading.decimal_comma))
    _add_companion(step, result, path, provenance, outputs)


def _add_matrix(step: Step, result: Result, path: Path, provenance: Provenance, outputs: Outputs) -> None:
    if result.matrix is None or is_folder(step.output.output):
        raise UsageError(f"-o {path}: a matrix is one table", "name a file instead, such as table.mtx")
    for place, content in matrix_files(result.matrix, path, step.reading.decimal_comma).items():
        outputs.add(place, content)
    columns = pd.DataFrame(columns=all_columns(result.matrix))
    _add_companion(step, replace(result, frame=columns), path, provenance, outputs)


def _add_companion(step: Step, result: Result, path: Path, provenance: Provenance, outputs: Outputs) -> None:
    if path.suffix.lower() in WITH_COMPANION:
        comma = step.reading.decimal_comma
        files = map(hashed, provenance.files)
        inputs = [{"path": file.path, "size": file.size, "sha256": file.sha256} for file in files]
        outputs.add(companion_path(path), companion_bytes(result, path, inputs, comma))


def bytes_to_read(step: Step) -> int:
    """How many bytes of text the inputs have; 0 where that cannot be told before they are read."""
    if step.counted.lists:
        return 0
    paths = all_files(step.inputs.input, step.reading.recursive)
    return sum(path.stat().st_size for path in paths) if all(path.suffix in _FLAT for path in paths) else 0


def claimed(step: Step) -> Outputs:
    """The outputs of one step, claimed before any work.

    Raises
    ------
    MillstoneError
    """
    outputs = Outputs(step.output.force, protected=input_paths(step.inputs.input))
    claim_outputs(step, outputs)
    return outputs


def save(step: Step, result: Result, provenance: Provenance, outputs: Outputs) -> list[Path]:
    """Write the table of a step, its outputs claimed before."""
    _add_tables(step, result, provenance, outputs)
    return list(outputs.commit())
