"""A process that has imported millstone and forks a child per run, so that a run need not start Python anew."""

import atexit
import contextlib
import importlib
import io
import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
import threading
from functools import cache
from pathlib import Path

_PASSED = (0, 1, 2)
"""The standard streams, sent along with a request."""


class ForkServer:
    """The parent process; `run` may be called from several threads at once."""

    def __init__(self, settings: dict[str, str]) -> None:
        self._folder = tempfile.TemporaryDirectory()
        self._address = str(Path(self._folder.name, "server"))
        with socket.socket(socket.AF_UNIX) as listening:
            listening.bind(self._address)
            listening.listen(64)
            command = [sys.executable, "-m", "tests.cli.fork_server", str(listening.fileno())]
            self._process = subprocess.Popen(
                command,
                env=settings,
                cwd=Path(__file__).parents[2],
                pass_fds=[listening.fileno()],
                stdin=subprocess.PIPE,
            )
        atexit.register(self.close)

    def close(self) -> None:
        """End the parent process."""
        self._process.terminate()
        self._process.communicate()
        self._folder.cleanup()

    def run(
        self,
        arguments: list[str],
        folder: Path,
        settings: dict[str, str],
        given: bytes = b"",
        timeout: int = 120,
        terminal: int | None = None,
    ) -> tuple:
        """The exit status, and the bytes of standard output and standard error; output may go to a `terminal`."""
        with contextlib.ExitStack() as stack:
            streams = [stack.enter_context(tempfile.TemporaryFile()) for _ in _PASSED]
            streams[0].write(given)
            streams[0].seek(0)
            connection = stack.enter_context(socket.socket(socket.AF_UNIX))
            connection.settimeout(timeout)
            connection.connect(self._address)
            request = json.dumps({"arguments": arguments, "folder": str(folder), "settings": settings}).encode()
            descriptors = [stream.fileno() for stream in streams]
            if terminal is not None:
                descriptors[1] = terminal
            socket.send_fds(connection, [len(request).to_bytes(4, "big") + request], descriptors)
            answer = connection.makefile().read()
            for stream in streams[1:]:
                stream.seek(0)
            return int(answer) if answer else -1, streams[1].read(), streams[2].read()


@cache
def fork_server(settings: tuple[tuple[str, str], ...]) -> ForkServer | None:
    """The server for runs with these settings of the environment; None where there is no fork."""
    return ForkServer(dict(settings)) if hasattr(os, "fork") and hasattr(socket, "send_fds") else None


def _serve(listening: socket.socket) -> None:
    # what has ended is not waited for
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    while True:
        connection, _ = listening.accept()
        if os.fork() == 0:
            listening.close()
            signal.signal(signal.SIGCHLD, signal.SIG_DFL)
            _child(connection)
        connection.close()


def _child(connection: socket.socket) -> None:
    status = 1
    try:
        data, descriptors, _, _ = socket.recv_fds(connection, 1 << 16, len(_PASSED))
        size = int.from_bytes(data[:4], "big")
        while len(data) < size + 4:
            data += connection.recv(1 << 16)
        request = json.loads(data[4:])
        for descriptor, place in zip(descriptors, _PASSED, strict=True):
            os.dup2(descriptor, place)
            os.close(descriptor)
        os.chdir(request["folder"])
        os.environ.clear()
        os.environ.update(request["settings"])
        sys.stdin = io.TextIOWrapper(os.fdopen(0, "rb", closefd=False), encoding="utf-8", errors="surrogateescape")
        sys.stdout = io.TextIOWrapper(os.fdopen(1, "wb", closefd=False), encoding="utf-8", errors="surrogateescape")
        sys.stderr = io.TextIOWrapper(
            os.fdopen(2, "wb", closefd=False), encoding="utf-8", errors="backslashreplace", line_buffering=True
        )
        sys.argv = ["millstone", *request["arguments"]]
        status = _status()
    finally:
        connection.sendall(str(status).encode())
        connection.close()
        os._exit(0)


def _status() -> int:
    """Run the entry point of the installed script, and end as the interpreter would."""
    from millstone.__main__ import run

    status = 0
    try:
        run()
    except SystemExit as end:
        status = end.code if isinstance(end.code, int) else int(end.code is not None)
    except BaseException:
        sys.excepthook(*sys.exc_info())
        status = 1
    for stream in (sys.stdout, sys.stderr):
        stream.flush()
    return status


def _main() -> None:
    sys.path.append(str(Path(__file__).parents[2] / "tools"))
    importlib.import_module("fuzzing.imports").import_program()
    listening = socket.socket(fileno=int(sys.argv[1]))
    # the tests hold the other end of standard input: where they end, so does this
    threading.Thread(target=lambda: (sys.stdin.read(), os._exit(0)), daemon=True).start()
    _serve(listening)


if __name__ == "__main__":
    _main()
