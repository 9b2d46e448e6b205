"""Messages for unexpected exceptions."""

import errno

from millstone.core.base.errors import MillstoneError

_NO_ROOM = "failed to map segment"


def explained(error: Exception) -> MillstoneError:
    """The message for an unexpected exception: of the system, of memory, or a fault of the program."""
    if isinstance(error, OSError) and error.errno:
        return _of_the_system(error)
    if _is_of_memory(error):
        return MillstoneError("there is not enough memory", "choose fewer texts, words or jobs")
    what = f"a fault in millstone itself, not in your data: {type(error).__name__}: {error}"
    return MillstoneError(what, "please report it with the command you typed; --debug shows where")


def _is_of_memory(error: BaseException | None) -> bool:
    """Whether it came of too little memory, even if a library made something else of it."""
    while error is not None:
        if isinstance(error, MemoryError) or _NO_ROOM in str(error):
            return True
        error = error.__cause__ or error.__context__
    return False


def _of_the_system(error: OSError) -> MillstoneError:
    if error.filename:
        return MillstoneError(f"{error.filename}: {(error.strerror or '').lower()}", "check the path, and the disk")
    import traceback

    *_, (frame, _) = traceback.walk_tb(error.__traceback__)
    if not frame.f_globals["__name__"].startswith("millstone.cli."):
        return MillstoneError(
            f"the system refused: {(error.strerror or '').lower()}", "check the disk and its limits"
        )
    if error.errno == errno.EBADF:
        return MillstoneError("standard output is closed", "name a file with -o")
    return MillstoneError(
        f"standard output: {(error.strerror or '').lower()}", "free some disk space, or name a file with -o"
    )
