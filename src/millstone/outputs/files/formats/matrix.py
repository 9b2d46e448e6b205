"""A documents x terms table as files, written in parts, never all of it in memory."""

import csv
import io
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO

from millstone.core.base.errors import DataError
from millstone.core.tables.matrix_result import DocumentTerms
from millstone.core.tables.table import ColumnCells, Table, values_of
from millstone.outputs.files.formats.parquet import MISSING_LIBRARY, with_companion
from millstone.outputs.files.formats.table import as_tsv, tsv_header, tsv_rows
from millstone.outputs.files.formats.workbook import cells_of, write_workbook

if TYPE_CHECKING:
    import pandas as pd

SPARSE = ".mtx"
_MOST_COLUMNS = 16_384
_MOST_ROWS = 1_048_576


def names_beside(path: Path) -> tuple[Path, Path]:
    """Where the names of the rows and of the columns of a Matrix Market file stand."""
    return path.with_suffix(".rows.tsv"), path.with_suffix(".columns.tsv")


def dense_size(table: DocumentTerms) -> int:
    """About how many bytes the table has as CSV."""
    cells = table.values.shape[0] * table.values.shape[1]
    return int(2 * cells + table.values.nnz * (0 if table.values.data.dtype.kind == "i" else 16))


def tsv_parts(table: DocumentTerms) -> Callable[[Callable[[str], object]], None]:
    """A writer of the table as TSV, part by part."""

    def write(out: Callable[[str], object]) -> None:
        out(tsv_header(table.columns))
        for part in table.batches():
            out(tsv_rows(part) if len(part[0]) else "")

    return write


def _csv(table: DocumentTerms, decimal_comma: bool, file: BinaryIO) -> None:
    out = io.TextIOWrapper(file, encoding="utf-8", newline="", write_through=True)
    writer = csv.writer(out, delimiter=";" if decimal_comma else ",", lineterminator="\n")
    writer.writerow(table.columns)
    for part in table.batches():
        columns = [list(map(_with_comma, cells.tolist())) if decimal_comma else cells.tolist() for cells in part]
        writer.writerows(zip(*columns, strict=True))
    out.detach()


def _with_comma(value: object) -> object:
    return str(value).replace(".", ",") if isinstance(value, float) else value


def _tsv(table: DocumentTerms, file: BinaryIO) -> None:
    tsv_parts(table)(lambda text: file.write(text.encode()))


def _parquet(table: DocumentTerms, companion: bytes, file: BinaryIO) -> None:
    try:
        import pyarrow
        from pyarrow import parquet
    except ImportError as error:
        raise DataError(*MISSING_LIBRARY) from error
    parts = (pyarrow.Table.from_pandas(_frame(table.columns, part), preserve_index=False) for part in table.batches())
    first = next(parts)
    schema = with_companion(first.schema, companion)
    with parquet.ParquetWriter(file, schema) as writer:
        writer.write_table(first.cast(schema))
        for part in parts:
            writer.write_table(part.cast(schema))


def _frame(names: Sequence[str], columns: Sequence[ColumnCells]) -> "pd.DataFrame":
    """A part of a table as a DataFrame, in which two columns may have the same name."""
    frame = Table({str(place): cells for place, cells in enumerate(columns)}).to_frame()
    return frame.set_axis(list(names), axis=1)


def _workbook(table: DocumentTerms, file: BinaryIO) -> None:

    rows, columns = len(table.rows) + 1, len(table.columns)
    if rows > _MOST_ROWS or columns > _MOST_COLUMNS:
        raise DataError(
            f"the table has {rows - 1:,} rows and {columns:,} columns, more than a workbook can hold",
            "save it as .mtx, .csv or .parquet, or choose fewer terms with --min-docs",
        )

    def fill(book: Any) -> None:
        sheet = book.create_sheet("matrix")
        sheet.append(cells_of(sheet, table.columns))
        for part in table.batches():
            for row in zip(*map(values_of, part), strict=True):
                sheet.append(cells_of(sheet, row))

    write_workbook(fill, file)


def _matrix_market(table: DocumentTerms, file: BinaryIO) -> None:
    from scipy.io import mmwrite

    kind = "integer" if table.values.data.dtype.kind == "i" else "real"
    # 17 digits distinguish any two numbers
    mmwrite(file, table.values.to_sparse().tocoo(), field=kind, precision=17, symmetry="general")


def matrix_files(
    table: DocumentTerms, path: Path, companion: bytes, decimal_comma: bool
) -> Mapping[Path, bytes | Callable[[BinaryIO], None]]:
    """The files that a table is saved as, and what writes each; Parquet holds the `companion`.

    Raises
    ------
    DataError
        While it is written: too large for a workbook, or a library is missing.
    """
    ending = path.suffix.lower()
    if ending == SPARSE:
        rows, columns = names_beside(path)
        what = "term" if "term" not in table.rows.names else "document"
        names = "".join(f"{name}\n" for name in [what, *table.names.tolist()])
        return {
            path: partial(_matrix_market, table),
            rows: "".join(as_tsv(table.rows)).encode(),
            columns: names.encode(),
        }
    writers: dict[str, Callable[[BinaryIO], None]] = {
        ".csv": partial(_csv, table, decimal_comma),
        ".tsv": partial(_tsv, table),
        ".xlsx": partial(_workbook, table),
        ".parquet": partial(_parquet, table, companion),
    }
    return {path: writers[ending]}


ENDINGS = (".csv", ".tsv", ".xlsx", ".parquet", SPARSE)
