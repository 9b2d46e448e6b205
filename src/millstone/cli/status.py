"""Exit statuses."""

from enum import IntEnum


class Status(IntEnum):
    """Exit statuses."""

    DONE = 0
    DATA_AT_FAULT = 1
    COMMAND_LINE_AT_FAULT = 2
    INTERRUPTED = 130
