"""Errors that a user can fix, reported in two lines: what is wrong and where, then what to do."""


class MillstoneError(Exception):
    """Base of every error that the user can fix.

    Parameters
    ----------
    what : str
        One line that says what is wrong, and where.
    remedy : str
        One line that says what to do.
    """

    def __init__(self, what: str, remedy: str) -> None:
        super().__init__(what)
        self.what = what
        self.remedy = remedy


class DataError(MillstoneError):
    """The data or the study is at fault."""


class UsageError(MillstoneError):
    """The command line is at fault."""
