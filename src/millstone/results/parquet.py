"""A result table as a Parquet file."""

import io

from millstone.core.errors import DataError
from millstone.core.result import Result

MISSING_LIBRARY = (
    "writing Parquet needs the package pyarrow, which is not installed",
    "install it with: pip install 'millstone-corpus[parquet]', or save as .csv",
)
"""What is wrong, and what to do."""


def as_parquet(result: Result) -> bytes:
    """The table as Parquet.

    Raises
    ------
    DataError
        When the library for it is not installed.
    """
    file = io.BytesIO()
    try:
        result.frame.to_parquet(file, index=False, engine="pyarrow")
    except ImportError as error:
        raise DataError(*MISSING_LIBRARY) from error
    return file.getvalue()
