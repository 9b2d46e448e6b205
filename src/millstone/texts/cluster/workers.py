"""A corpus scanned on a cluster: its files go to workers in parts, and the scans of neighbouring parts are joined."""

import os
import re
import socket
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from millstone.core.base.addresses import holds_secret, is_address
from millstone.core.base.errors import DataError, MillstoneError, UsageError
from millstone.core.base.version import VERSION
from millstone.core.base.wording import listed, numbered
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.corpus.corpus import Corpus
from millstone.core.scan.merge_parts import unpacked
from millstone.core.scan.scan import Progress
from millstone.core.settings.inputs import InputOptions
from millstone.texts.cluster.parts import PartRules, PartScan, joined_parts, scan_part
from millstone.texts.inputs.files import STANDARD_INPUT
from millstone.texts.inputs.finding.finding import FoundFile, files_to_read
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.reader import Files
from millstone.texts.machine import Scheduler

LOCAL = "local:"
_FEW = r"0*[1-9]\d{0,2}"
_SECONDS = 10
_PART = 256 << 20
_LEAST_PART = 1 << 15
_FOR_EACH = 4
_TOGETHER = 8


def scan_on_cluster(
    scheduler: Scheduler,
    inputs: Sequence[str],
    rules: PartRules,
    provenance: Provenance,
    cleaned: Cleaned,
    progress: Progress,
) -> Corpus:
    """The scan of the files of some inputs, which workers read and scan; the same as one process gives.

    Parameters
    ----------
    scheduler : Scheduler
    inputs : sequence of str
    rules : PartRules
    provenance, cleaned
        Receive what was read, and what cleaning took out.
    progress : callable
        Called with the bytes of each part that is done.

    Raises
    ------
    MillstoneError
        Also for a scheduler that does not answer, workers with another version or without a file, and a part that
        ended several workers.
    """
    files = Files(rules.reading, provenance)
    listing = Provenance()
    found = list(files_to_read(inputs, rules.reading, listing))
    if any(str(file.path) == STANDARD_INPUT for file in found):
        raise UsageError("--cluster: standard input is on this machine only", "name files that all workers can read")
    with _client(scheduler) as client:
        workers = _checked_workers(client, scheduler)
        whole = _carried_out(client, _parts(found, rules.reading, workers), rules, progress)
    provenance.add(whole.provenance)
    provenance.add(listing)
    cleaned.add(whole.cleaned)
    files.describer.met.add(whole.met)
    files.add_groups(whole.groups)
    files.finish()
    return unpacked(whole.corpus)


@contextmanager
def _client(scheduler: Scheduler) -> Iterator[Any]:
    """A connection to a scheduler, or to one of a cluster that is made for it; ended afterwards."""
    try:
        import dask
        from distributed import Client, LocalCluster
    except ImportError as error:
        raise UsageError(
            f"{scheduler}: this needs Dask, which is not installed",
            "install it with: pip install 'millstone-corpus[cluster]'",
        ) from error
    address = scheduler.address
    if "@" in address or holds_secret(address):
        raise UsageError(
            f"{scheduler.said_by}: the address of a scheduler is tcp://HOST:PORT, and nothing else",
            "leave out what stands before the host and after the port",
        )
    if address.startswith(LOCAL):
        number = address.removeprefix(LOCAL)
        if not re.fullmatch(_FEW, number, re.ASCII):
            raise UsageError(f"{scheduler}: not a number of workers", "type local:2 for two of them")
        with (
            # what the engine leaves beside its work goes with this folder
            TemporaryDirectory(prefix="millstone", ignore_cleanup_errors=True) as folder,
            dask.config.set({"temporary-directory": folder}),
            LocalCluster(
                n_workers=int(number),
                threads_per_worker=1,
                dashboard_address=None,
                silence_logs=50,
            ) as cluster,
            Client(cluster) as client,
        ):
            yield client
        return
    try:
        _knock(address)
        client = Client(address, timeout=_SECONDS)
    except Exception as error:
        # what answers may be anything
        raise DataError(
            f"{scheduler}: no scheduler answers there: {' '.join(str(error).split())[:120]}",
            "start one with: dask scheduler; its address begins with tcp://; or try --cluster local:2",
        ) from error
    with client:
        yield client


def _knock(address: str) -> None:
    """See at once whether anything listens at an address; a client would try again and again."""
    found = re.fullmatch(r"(?:tcp://|tls://)?\[?([^\[\]/]+?)\]?:(\d+)", address)
    if found is None:
        raise ValueError("an address is tcp://HOST:PORT")
    socket.create_connection((found[1], int(found[2])), _SECONDS).close()


def _about() -> tuple[str, str]:
    """Host and version of the process that is asked."""
    return socket.gethostname(), VERSION


def _checked_workers(client: Any, scheduler: Scheduler) -> int:
    """How many workers a scheduler has; all must have this version of the program."""
    # one that dies at this moment does not answer, and counts for nothing
    answers = client.run(_about, on_error="return")
    for error in answers.values():
        if isinstance(error, ModuleNotFoundError):
            raise DataError(
                f"{scheduler}: a worker has no millstone: {error}", "install the same version on all machines"
            ) from error
    known = {worker: answer for worker, answer in answers.items() if not isinstance(answer, Exception)}
    if not known:
        raise DataError(
            f"{scheduler}: the scheduler has no workers", f"start one with: dask worker {scheduler.address}"
        )
    other = {f"{host} has {version}" for host, version in known.values() if version != VERSION}
    if other:
        raise DataError(
            f"{scheduler}: this is millstone {VERSION}, and {listed(sorted(other))}",
            "install the same version on all machines",
        )
    return len(known)


def _parts(found: Sequence[FoundFile], reading: InputOptions, workers: int) -> Iterator[tuple[list[FoundFile], int]]:
    """The files in their order, large ones cut where possible, in parts of about the same size; their bytes."""
    sizes = [file.path.stat().st_size for file in found]
    most = min(_PART, max(_LEAST_PART, sum(sizes) // (_FOR_EACH * workers)))
    part: list[FoundFile] = []
    size = 0
    for file, whole in zip(found, sizes, strict=True):
        for one in file.cut(reading, most) if whole >= 2 * most else [file]:
            part.append(one)
            size += min(one.stretch.end, whole) - one.stretch.start
            if size >= most:
                yield part, size
                part, size = [], 0
    if part or not found:
        yield part, size


def _seen_from(folder: str, rules: PartRules, files: Sequence[FoundFile]) -> PartScan:
    """Scan a part on a worker: paths are seen from the folder in which the program was called."""
    try:
        os.chdir(folder)
    except OSError as error:
        raise DataError(
            f"the worker on {socket.gethostname()} does not see the folder {folder}",
            "give it the same file system, or call the program in a folder that all machines have",
        ) from error
    missing = [str(file.path) for file in files if not is_address(str(file.path)) and not file.path.exists()]
    if missing:
        raise DataError(
            f"the worker on {socket.gethostname()} does not see {listed(missing)}",
            "texts must lie where all machines see them under the same path",
        )
    return scan_part(rules, files)


def _carried_out(
    client: Any, parts: Iterable[tuple[list[FoundFile], int]], rules: PartRules, progress: Progress
) -> PartScan:
    from distributed import KilledWorker, as_completed

    folder = str(Path.cwd())
    scans: list[Any] = []
    sizes: list[int] = []
    try:
        # the first parts are read while borders of the next ones are looked for
        for files, size in parts:
            scans.append(client.submit(_seen_from, folder, rules, files, pure=False))
            sizes.append(size)
        number_of = {scan.key: number for number, scan in enumerate(scans)}
        whole = _joined(client, scans)
        errors: dict[int, BaseException] = {}
        watched = as_completed(scans)
        # a worker need not keep what is joined
        scans = []
        for done in watched:
            number = number_of[done.key]
            progress(sizes[number], 0)
            if done.status == "error":
                errors[number] = done.exception()
        if errors:
            # the first of several is the one that a single process meets
            raise errors[min(errors)]
        found: PartScan = whole.result()
    except KilledWorker as error:
        raise MillstoneError(
            f"a part of the texts ended {numbered(int(error.allowed_failures) + 1, 'worker')} one after the other",
            "their memory may be too small: give each worker more, or start fewer on a machine",
        ) from error
    except BaseException:
        # an interruption ends the work on the cluster, too
        client.cancel(list(client.futures.values()), force=True)
        raise
    return found


def _joined(client: Any, scans: Sequence[Any]) -> Any:
    """Join the scans of parts: neighbours as soon as they are there, then what they give."""
    while len(scans) > 1:
        some = [scans[at : at + _TOGETHER] for at in range(0, len(scans), _TOGETHER)]
        scans = [one[0] if len(one) == 1 else client.submit(joined_parts, one, pure=False) for one in some]
    return scans[0]
