"""Resources: processors and memory of this machine, and the workers of a cluster."""

import os
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path

from millstone.core.base.light_dataclass import frozen
from millstone.core.matrix.on_disk import NO_LIMIT
from millstone.core.settings.preparation import Work

CLUSTER_VARIABLE = "MILLSTONE_CLUSTER"
"""Holds the address of a scheduler for all commands that are not told otherwise."""
_CONTROL_GROUPS = Path("/sys/fs/cgroup")


@frozen
class Scheduler:
    """The address of a scheduler, or ``local:N``, and where it was said: an option or a variable."""

    address: str
    said_by: str

    def __str__(self) -> str:
        return f"{self.said_by} {self.address}"


def scheduler_of(work: Work, inputs: Sequence[str]) -> Scheduler | None:
    """The scheduler that is to have the texts read by its workers; None where this machine reads them.

    What comes through a pipe is on this machine only: a variable that holds for all commands does not mean it.
    """
    if work.cluster:
        return Scheduler(work.cluster, "--cluster")
    address = os.environ.get(CLUSTER_VARIABLE, "").strip()
    piped = any(typed.rpartition("=")[2] == "-" for typed in inputs)
    return Scheduler(address, CLUSTER_VARIABLE) if address and not piped else None


def processors(work: Work) -> int:
    """How many processes may count at once."""
    if work.jobs:
        return work.jobs
    # those that this process may use, where the system says
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


def memory(work: Work) -> int:
    """How many bytes of memory to be content with: as typed, or half of what this process may have."""
    return work.memory or _available() // 2


def _available() -> int:
    sizes = [NO_LIMIT]
    # some systems do not say
    with suppress(AttributeError, ValueError, OSError):
        sizes.append(os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE"))
    return min(sizes + _limits_of_groups())


def _limits_of_groups() -> list[int]:
    """Memory limits of the control groups that this process is in, on Linux."""
    found = []
    with suppress(OSError):
        for line in Path("/proc/self/cgroup").read_text("ascii").splitlines():
            _, kinds, inside = line.split(":", 2)
            if kinds and "memory" not in kinds.split(","):
                continue
            # the older way has a tree for each kind
            root = _CONTROL_GROUPS / "memory" if kinds else _CONTROL_GROUPS
            name = "memory.limit_in_bytes" if kinds else "memory.max"
            here = root / inside.lstrip("/")
            # in a container the path may be that of the host
            for folder in {here, *here.parents, root}:
                with suppress(OSError, ValueError):
                    if folder.is_relative_to(root):
                        found.append(int((folder / name).read_text("ascii")))
    return found
