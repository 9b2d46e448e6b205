"""A result table as a Parquet file."""

import io
from pathlib import Path
from typing import Any

from millstone.core.errors import DataError
from millstone.core.result import Result

MISSING_LIBRARY = (
    "writing Parquet needs the package pyarrow, which is not installed",
    "install it with: pip install 'millstone-corpus[parquet]', or save as .csv",
)
"""What is wrong, and what to do."""


_KEY = b"millstone"


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
        return ((parquet.read_schema(path).metadata or {}).get(_KEY, b"")).decode("utf-8")
    except (pyarrow.ArrowException, OSError):
        return ""
