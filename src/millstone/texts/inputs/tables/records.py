"""Tables whose rows name their columns: JSON, JSON Lines and Parquet."""

import json
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError
from millstone.core.base.wording import escaped
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.decoding import open_text, wrong_bytes_in
from millstone.texts.inputs.files import check_expansion, for_library
from millstone.texts.inputs.finding.stretches import WHOLE, Stretch
from millstone.texts.inputs.provenance import Provenance

_ARRAY_WANTED = 'the file is a list of objects: [{"text": "...", "hut": "..."}, ...]'
_ROWS_AT_ONCE = 4096
Record = tuple[int, dict[str, str]]


def json_records(
    path: Path, reading: InputOptions, provenance: Provenance, stretch: Stretch = WHOLE
) -> Iterator[Record]:
    """The objects of a JSON Lines file, or of a stretch of it, with the numbers of their lines.

    Raises
    ------
    DataError
        Names file and line.
    """
    try:
        with open_text(path, reading.encoding, provenance) as stream:
            if not stretch.is_first:
                stream.seek(stretch.start)
            for number, line in enumerate(stream, stretch.before + 1):
                if number > stretch.last:
                    return
                if line.strip():
                    yield number, _object(line, path, number)
    except UnicodeDecodeError as error:
        raise wrong_bytes_in(path, reading.encoding) from error


def json_array_records(path: Path, reading: InputOptions, provenance: Provenance) -> Iterator[Record]:
    """The objects of a JSON file that holds an array of them, the first numbered 1.

    Raises
    ------
    DataError
        Names file and, of a syntax error, line and column.
    """
    try:
        with open_text(path, reading.encoding, provenance) as stream:
            found = json.load(stream, object_pairs_hook=_once_each)
    except UnicodeDecodeError as error:
        raise wrong_bytes_in(path, reading.encoding) from error
    except json.JSONDecodeError as error:
        raise DataError(
            f"{path}, line {error.lineno}, column {error.colno}: {error.msg.lower()}", _ARRAY_WANTED
        ) from error
    except (ValueError, RecursionError) as error:
        raise DataError(f"{path}: {error}", _ARRAY_WANTED) from error
    rows = found if isinstance(found, list) else [found]
    for number, row in enumerate(rows, 1):
        if not isinstance(row, dict):
            raise DataError(f"{path}, row {number}: not an object, but {type(row).__name__}", _ARRAY_WANTED)
        yield number, {str(name): _as_cell(value) for name, value in row.items()}


def _once_each(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    """The pairs of an object, none of which may come twice."""
    found = dict(pairs)
    if len(found) < len(pairs):
        raise ValueError(f"the key {_twice([name for name, _ in pairs])!r} stands twice in an object")
    return found


def _twice(names: list[str]) -> str:
    """The commonest of some names."""
    return Counter(names).most_common(1)[0][0]


def _object(line: str, path: Path, number: int) -> dict[str, str]:
    try:
        found = json.loads(line, object_pairs_hook=_once_each)
    except (ValueError, RecursionError) as error:
        reason = error.msg.lower() if isinstance(error, json.JSONDecodeError) else str(error)
        raise DataError(
            f"{path}, line {number}: {reason}", 'each line is one JSON object: {"text": "...", "hut": "..."}'
        ) from error
    if not isinstance(found, dict):
        raise DataError(
            f"{path}, line {number}: not an object, but {type(found).__name__}",
            'each line is one JSON object: {"text": "...", "hut": "..."}',
        )
    return {escaped(str(name)): _as_cell(value) for name, value in found.items()}


def _as_cell(value: Any) -> str:
    if value is None:
        return ""
    return escaped(value if isinstance(value, str) else json.dumps(value, ensure_ascii=False, default=str))


def parquet_records(path: Path, reading: InputOptions, provenance: Provenance) -> Iterator[Record]:
    """The rows of a Parquet file, the first numbered 1.

    Raises
    ------
    DataError
        When it cannot be read, or the library for it is not installed.
    """
    try:
        import pyarrow
        from pyarrow import parquet
    except ImportError as error:
        raise DataError(
            f"{path}: reading Parquet needs the package pyarrow, which is not installed",
            "install it with: pip install 'millstone-corpus[parquet]', or save the table as .csv",
        ) from error
    source = for_library(path)
    try:
        schema = parquet.read_schema(source)
        names = schema.names
        # a text that is written once may stand in a million rows
        kinds = (pyarrow.string(), pyarrow.large_string())
        once = [one.name for one in schema if one.type in kinds]
        packed = path.stat().st_size
        with parquet.ParquetFile(source, read_dictionary=once) as file:
            if len(set(names)) < len(names):
                raise DataError(f"{path} has two columns {_twice(names)!r}", "give each column a different name")
            # a row takes a byte at least in any other format
            number, unfolded = 0, file.metadata.num_rows
            check_expansion(path, packed, unfolded)
            for batch in file.iter_batches(_ROWS_AT_ONCE):
                if all(column.null_count == len(batch) for column in batch.columns):
                    # a million rows of nothing may be a few bytes
                    number += len(batch)
                    continue
                columns = list(map(_cells, batch.columns))
                for cells in zip(*columns, strict=True):
                    number += 1
                    unfolded += sum(map(len, cells))
                    check_expansion(path, packed, unfolded)
                    yield number, dict(zip(names, cells, strict=True))
    except (pyarrow.ArrowInvalid, pyarrow.ArrowNotImplementedError) as error:
        raise DataError(
            f"{path} is not a Parquet file that can be read: {error}", "save it again, or as .csv"
        ) from error


def _cells(column: Any) -> list[str]:
    """The values of a column as texts; those that are written once are one object."""
    if not hasattr(column, "dictionary"):
        return list(map(_as_text, column.to_pylist()))
    texts = list(map(_as_text, [*column.dictionary.to_pylist(), None]))
    return [texts[-1 if place is None else place] for place in column.indices.to_pylist()]


def _as_text(value: Any) -> str:
    return _as_cell(value) if value is None or isinstance(value, str | dict | list | bool) else str(value)
