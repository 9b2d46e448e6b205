"""Periods: documents in the order of a date or a number, put together by year, month or steps of a number."""

import calendar
import datetime
import math
import re
from collections.abc import Sequence

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.kinds import CALENDAR

_DATE = re.compile(r"(-?\d{4})(?:-(\d{1,2})(?:-(\d{1,2}))?)?(?:[T ]\d.*)?")
_MONTHS = {"month": 1, "quarter": 3, "year": 12, "decade": 120}


@frozen
class Periods:
    """The period of each document.

    Attributes
    ----------
    of : ndarray
        (D,) int64 the number of the period, in their order; -1 for a document without a value.
    x : ndarray
        (D,) float where each document lies: its number, or its date in years; NaN without a value.
    labels : tuple of str
        (P,) such as 2016, 2016-Q1, 2016-03, 2010s or 10.
    are_dates : bool
    """

    of: np.ndarray
    x: np.ndarray
    labels: tuple[str, ...]
    are_dates: bool


def periods_of(cells: Sequence[str], size: str, field: str, names: Sequence[str]) -> Periods:
    """Put documents into periods by the values of a field.

    Parameters
    ----------
    cells : sequence of str
        (D,) values; empty where there is none.
    size : str
        ``year``, ``quarter``, ``month``, ``decade``, or a number: of years for dates, else the step; empty for years,
        of numbers for each value.
    field : str
        The name of the field, for messages.
    names : sequence of str
        (D,) the names of the documents, for messages.

    Returns
    -------
    Periods

    Raises
    ------
    DataError
        For a value that is neither a number nor a date, or a size that does not suit; names the document.
    """
    x, start, are_dates = _places(cells, f"--over {field}", size, names)
    keys = _of_dates(start, size, field) if are_dates else _of_numbers(x, size, field)
    known = np.flatnonzero(~np.isnan(x))
    different, number = np.unique(keys[known], return_inverse=True)
    of = np.full(len(cells), -1, dtype=np.int64)
    of[known] = number
    labels = tuple(_label(key, size, are_dates) for key in different.tolist())
    return Periods(of, x, labels, are_dates)


def field_numbers(cells: Sequence[str], option: str, names: Sequence[str]) -> np.ndarray:
    """The numbers, or the dates in years, that a field of documents holds.

    Parameters
    ----------
    cells : sequence of str
        (D,) values; empty where there is none.
    option : str
        What asks for them, for messages, such as ``--over year``.
    names : sequence of str
        (D,) the names of the documents, for messages.

    Returns
    -------
    ndarray
        (D,) float; NaN for a document without a value.

    Raises
    ------
    DataError
        For a value that is neither a number nor a date; names the document.
    """
    return _places(cells, option, "", names)[0]


def _places(
    cells: Sequence[str], option: str, size: str, names: Sequence[str]
) -> tuple[np.ndarray, np.ndarray, bool]:
    """Where documents lie, of dates the month counted from the year 0, and whether they are dates."""
    filled = [at for at, cell in enumerate(cells) if cell.strip()]
    are_dates = any("-" in cells[at].strip()[1:] for at in filled)
    x = np.full(len(cells), np.nan)
    start = np.full(len(cells), -1, dtype=np.int64)
    read: dict[str, tuple[float, int]] = {}
    for at in filled:
        text = cells[at].strip()
        if text in read:
            x[at], start[at] = read[text]
            continue
        if are_dates:
            x[at], start[at], is_whole_year = _date(text, option, names[at])
            if is_whole_year and size in ("quarter", "month"):
                raise DataError(
                    f"{option}: {text!r} of document {names[at]} has no month, and --period {size} asks for it",
                    "type --period year, or leave the document out with --where",
                )
        else:
            x[at] = _number(text, option, names[at])
        read[text] = float(x[at]), int(start[at])
    return x, start, are_dates


def looks_ordered(cells: Sequence[str]) -> bool:
    """Whether all values of a field, and there are two different ones, are numbers or dates.

    Parameters
    ----------
    cells : sequence of str

    Returns
    -------
    bool
    """
    different = {cell.strip() for cell in cells} - {""}
    try:
        periods_of(sorted(different), "", "", [""] * len(different))
    except DataError:
        return False
    return len(different) > 1


def _number(text: str, option: str, name: str) -> float:
    try:
        found = float(text) if "_" not in text else math.nan
    except ValueError:
        found = math.nan
    if not math.isfinite(found):
        raise DataError(
            f"{option}: {text!r} of document {name} is neither a number nor a date such as 2016, 2016-05 or "
            "2016-05-31",
            "fix the value, leave the document out with --where, or name another field",
        )
    return found


def _date(text: str, option: str, name: str) -> tuple[float, int, bool]:
    """A date in years, its month counted from the year 0, and whether it is a year alone.

    A year or a month alone is its middle.
    """
    found = _DATE.fullmatch(text)
    try:
        if found is None:
            raise ValueError
        year, month, day = (int(part) if part else 0 for part in found.groups())
        days = 366 if calendar.isleap(year) else 365
        if not month:
            return year + 0.5, 12 * year, True
        first = datetime.date(max(year, 1), month, 1).timetuple().tm_yday
        if not day:
            return (
                year + (first - 1 + calendar.monthrange(max(year, 1), month)[1] / 2) / days,
                12 * year + month - 1,
                False,
            )
        at = datetime.date(max(year, 1), month, day).timetuple().tm_yday
        return year + (at - 1) / days, 12 * year + month - 1, False
    except ValueError:
        raise DataError(
            f"{option}: {text!r} of document {name} is not a date such as 2016, 2016-05 or 2016-05-31",
            "fix the value, or leave the document out with --where",
        ) from None


def _of_dates(month: np.ndarray, size: str, field: str) -> np.ndarray:
    if size in _MONTHS or not size:
        months = _MONTHS[size or "year"]
    elif size.isdecimal() and int(size):
        months = 12 * int(size)
    else:
        raise DataError(
            f"--period {size}: {field} holds dates, which periods of whole years divide",
            "type --period year, quarter, month, decade, or a whole number of years",
        )
    return month // months


def _of_numbers(x: np.ndarray, size: str, field: str) -> np.ndarray:
    if not size:
        return x
    if size in CALENDAR:
        if size in ("year", "decade") and not np.any(x[~np.isnan(x)] % 1):
            return np.floor(x / _MONTHS[size] * 12)
        raise DataError(
            f"--period {size}: {field} holds numbers, not dates", "type --period N for steps of N, or leave it out"
        )
    return np.floor(x / float(size))


def _label(key: float, size: str, are_dates: bool) -> str:
    """The name of a period from its number."""
    if not are_dates:
        step = {"": 1.0, "year": 1.0, "decade": 10.0}.get(size) or float(size)
        return f"{key * step:g}s" if size == "decade" else f"{key * step:g}"
    if size == "month":
        return f"{int(key) // 12:04}-{int(key) % 12 + 1:02}"
    if size == "quarter":
        return f"{int(key) // 4:04}-Q{int(key) % 4 + 1}"
    years = {"": 1, "year": 1, "decade": 10}.get(size) or int(size)
    return f"{int(key) * years:04}s" if size == "decade" else f"{int(key) * years:04}"
