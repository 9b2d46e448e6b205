"""A result table as a Parquet file."""

import io
from pathlib import Path
from typing import TYPE_CHECKING, Any

from millstone.core.base.errors import DataError
from millstone.core.tables.result import Result

if TYPE_CHECKING:
    import pandas as pd

MISSING_LIBRARY = (
    "Parquet needs the package pyarrow, which is not installed",
    "install it with: pip install 'millstone-corpus[parquet]', or save as .csv",
)
"""Error and remedy."""


_KEY = b"millstone"
_MANY_CELLS, _RATIO = 10_000_000, 25


def as_parquet(result: Result, companion: bytes) -> bytes:
    """The table as Parquet, its companion among the metadata of the schema.

    Raises
    ------
    DataError
        When the library for it is not installed.
    """
    try:
        import pyarrow
        from pyarrow import parquet
    except ImportError as error:
        raise DataError(*MISSING_LIBRARY) from error
    file = io.BytesIO()
    parquet.write_table(
        with_companion(pyarrow.Table.from_pandas(result.frame, preserve_index=False), companion), file
    )
    return file.getvalue()


def read_parquet(path: Path) -> "pd.DataFrame":
    """The rows of a saved table; a text that is written once is one object, however often it stands there.

    Raises
    ------
    DataError
        When the library for it is not installed, or a small file has more rows than one could write.
    """
    try:
        import pyarrow
        from pyarrow import parquet
    except ImportError as error:
        raise DataError(*MISSING_LIBRARY) from error
    schema, metadata = parquet.read_schema(path), parquet.read_metadata(path)
    if metadata.num_rows * metadata.num_columns > max(_MANY_CELLS, _RATIO * path.stat().st_size):
        raise DataError(f"{path} has {metadata.num_rows:,} rows, as no table of its size has", "make the table again")
    once = [one.name for one in schema if one.type in (pyarrow.string(), pyarrow.large_string())]
    frame: pd.DataFrame = parquet.read_table(path, read_dictionary=once).to_pandas()
    return frame.astype(dict.fromkeys(once, object))


def with_companion(table: Any, companion: bytes) -> Any:
    """A table, or a schema, of pyarrow with the companion among its metadata."""
    schema = getattr(table, "schema", table)
    metadata = {**(schema.metadata or {}), _KEY: companion}
    return table.replace_schema_metadata(metadata) if schema is not table else schema.with_metadata(metadata)


def companion_in(path: Path) -> str:
    """The companion of a table as JSON; "" where it has none, or cannot be read."""
    try:
        import pyarrow
        from pyarrow import parquet
    except ImportError:
        return ""
    try:
        found: str = ((parquet.read_schema(path).metadata or {}).get(_KEY, b"")).decode("utf-8")
        return found
    except (pyarrow.ArrowException, OSError):
        return ""
