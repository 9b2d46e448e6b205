"""Measures by name: what a registry holds is found by screens, files, options, legends and the reference."""

from collections.abc import Callable, Iterator, Mapping
from typing import Any, Generic, TypeVar

from millstone.core.base.light_dataclass import frozen
from millstone.core.tables.columns import Column

D = TypeVar("D")


@frozen
class Measure(Generic[D]):
    """A measure of some data `D`.

    Attributes
    ----------
    column : Column
        The column that it fills; its name is that of the measure.
    of : callable
        From the data to its values, one per row.
    formula : str
        As one would write it.
    source : str
        Who proposed it (author, year); "" where it is plain arithmetic.
    span : str
        The range of its values in words; "" where any number can be one.
    """

    column: Column
    of: Callable[[D], Any]
    formula: str
    source: str = ""
    span: str = ""

    @property
    def name(self) -> str:
        """Its name."""
        return self.column.name


M = TypeVar("M", bound=Measure[Any])


class Measures(Mapping[str, M]):
    """Measures by name, in the order in which they were added.

    Parameters
    ----------
    about : str
        What they are measures of, for the reference.
    """

    def __init__(self, about: str, *measures: M) -> None:
        self.about = about
        self._measures = {one.name: one for one in measures}

    def add(self, measure: M) -> M:
        """Add a measure, and return it."""
        self._measures[measure.name] = measure
        return measure

    def remove(self, name: str) -> None:
        """Take a measure out again."""
        del self._measures[name]

    def columns(self, *but: str) -> tuple[Column, ...]:
        """The columns of all measures, those of some names left out."""
        return tuple(one.column for name, one in self._measures.items() if name not in but)

    def __getitem__(self, name: str) -> M:
        return self._measures[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._measures)

    def __len__(self) -> int:
        return len(self._measures)
