"""Schemas: the columns of a table in the order in which they are read, and how its rows belong together."""

from collections.abc import Iterable, Mapping
from dataclasses import field
from functools import cached_property

from millstone.core.base.light_dataclass import frozen
from millstone.core.tables.columns import IN_FILES_ONLY, Column, by_name


@frozen
class Schema:
    """The schema of a table.

    Attributes
    ----------
    name : str
        The command that makes such tables, or the name of a further table.
    columns : tuple of Column
        In the order in which a screen shows them.
    blocks : tuple of str
        The columns that say to which list or comparison a row belongs; none where all rows are one block.
    joint : str
        The text between the two names in the heading of a block.
    key : str
        The column that names a row and never leaves a screen; by default the first that looks like one.
    row : tuple of str
        The columns that together name one row of a list, where the key alone does not.
    every : bool
        A screen shows columns that the schema does not have, such as categories, too.
    side_by_side : str
        How the name of a column begins that each group has where groups stand side by side.
    leaving_beside : tuple of str
        Then the kinds of column that leave a narrow screen first, each of all groups.
    largest_first : tuple of str
        Columns by whose sum a screen orders the rows, the largest first, and ``--top`` chooses them; a whole file has
        them as they are.
    ordered_by : tuple of str
        The columns by which its rows are ordered.
    also_called : mapping
        A name that is understood for a column, as typed or in a table of an earlier version -> the column.
    empty : str
        What a screen says where there is no row.
    centre : str
        The column at which rows are aligned as lines of text, ``left`` and ``right`` beside it; none for a table.
    tree : str
        The column that is shown as an indented tree, by ``level``; none for a table.
    """

    name: str
    columns: tuple[Column, ...] = ()
    blocks: tuple[str, ...] = ()
    joint: str = " "
    key: str = ""
    row: tuple[str, ...] = ()
    every: bool = True
    side_by_side: str = ""
    leaving_beside: tuple[str, ...] = ()
    largest_first: tuple[str, ...] = ()
    ordered_by: tuple[str, ...] = ()
    also_called: Mapping[str, str] = field(default_factory=dict)
    empty: str = "no rows"
    centre: str = ""
    tree: str = ""

    @property
    def names(self) -> tuple[str, ...]:
        """The names of all columns."""
        return tuple(one.name for one in self.columns)

    @property
    def shown(self) -> tuple[str, ...]:
        """The columns that a screen shows, where there is room; none where it shows all."""
        if self.every:
            return ()
        blocks = set(self.blocks)
        return tuple(one.name for one in self.columns if one.priority != IN_FILES_ONLY and one.name not in blocks)

    @property
    def drawn(self) -> tuple[str, ...]:
        """The columns that figures are made of."""
        return tuple(one.name for one in self.columns if one.drawn)

    @property
    def identifying(self) -> tuple[str, ...]:
        """The columns by which a table without a companion is known; none where it is not known without one."""
        return tuple(one.name for one in self.columns if one.identifies)

    @cached_property
    def by_name(self) -> dict[str, Column]:
        """Name -> column."""
        return by_name(self.columns)

    def of_table(self, names: Iterable[str]) -> dict[str, Column]:
        """The columns that a table has, in its order; where groups stand side by side, ``freq_A`` is ``freq`` of A.

        Raises
        ------
        KeyError
            For a column that the schema does not have.
        """
        return {name: self.by_name[name] if name in self.by_name else self._of_group(name) for name in names}

    def _of_group(self, name: str) -> Column:
        own = max((one for one in self.names if name.startswith(f"{one}_")), key=len, default="")
        if not own:
            raise KeyError(f"the schema {self.name!r} has no column {name!r}")
        column, group = self.by_name[own], name.removeprefix(f"{own}_")
        return column.having(name=name, title=f"{column.title} {group}", meaning=f"{column.meaning}: {group}")
