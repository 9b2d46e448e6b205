"""How the table of a command is laid out: which rows belong together, which columns matter first.

Light on purpose: each command declares its layout.
"""

from millstone.core.base.light_dataclass import frozen


@frozen
class Layout:
    """The layout of a table.

    Attributes
    ----------
    blocks : tuple of str
        The columns that say to which list or comparison a row belongs; none where all rows are one block.
    joint : str
        What stands between the two names in the heading of a block.
    shown : tuple of str
        The columns that a screen shows, where there is room; none for all that have a meaning.
    leaving : tuple of str
        The columns that leave a narrow screen, in this order.
    beside : str
        What begins the name of a column that each group has where groups stand side by side.
    leaving_beside : tuple of str
        Then the kinds of column that leave first, each of all groups.
    largest_first : tuple of str
        Columns by whose sum a screen orders the rows, the largest first, and ``--top`` chooses them; a whole file has
        them as they are.
    marks : tuple of str
        The columns by which a table without a companion is known; none where it is not known without one.
    drawn : tuple of str
        The columns that its figures are made of.
    traced : tuple of str
        Further columns by which the lines behind a row are found.
    empty : str
        What a screen says where there is no row.
    centre : str
        The column at which rows are aligned as lines of text, ``left`` and ``right`` beside it; none for a table.
    tree : str
        The column that is shown as an indented tree, by ``level``; none for a table.
    """

    blocks: tuple[str, ...] = ()
    joint: str = " "
    shown: tuple[str, ...] = ()
    leaving: tuple[str, ...] = ()
    beside: str = ""
    leaving_beside: tuple[str, ...] = ()
    largest_first: tuple[str, ...] = ()
    marks: tuple[str, ...] = ()
    drawn: tuple[str, ...] = ()
    traced: tuple[str, ...] = ()
    empty: str = "no rows"
    centre: str = ""
    tree: str = ""
