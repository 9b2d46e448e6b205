"""A headless Chromium, where there is one, driven over its debugging protocol by a pair of pipes.

The pipes need no further package: no driver that fits the browser's version, and no socket.
"""

import base64
import fcntl
import json
import os
import shutil
import subprocess
import tempfile
from pathlib import Path
from typing import Any

NAMES = ("chromium", "chromium-browser", "google-chrome", "google-chrome-stable")


def found() -> str:
    """The browser's program; empty if not installed."""
    return next((path for name in NAMES if (path := shutil.which(name))), "")


class Browser:
    """One page of a browser; what it asks the network for and what goes wrong in it are kept."""

    def __init__(self) -> None:
        self._folder = tempfile.mkdtemp(prefix="browser")
        to_browser, self._to = os.pipe()
        self._from, from_browser = os.pipe()
        command = [found(), "--headless=new", "--no-sandbox", "--disable-gpu", "--remote-debugging-pipe"]
        command += [f"--user-data-dir={self._folder}", "--hide-scrollbars", "--no-first-run", "about:blank"]

        def connect() -> None:
            # the protocol reads from 3 and writes to 4, which may be in use for something else here
            one, other = (fcntl.fcntl(end, fcntl.F_DUPFD, 10) for end in (to_browser, from_browser))
            os.dup2(one, 3)
            os.dup2(other, 4)

        self._process = subprocess.Popen(
            command,
            preexec_fn=connect,  # noqa: PLW1509 (no thread holds a lock here)
            close_fds=False,
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        os.close(to_browser)
        os.close(from_browser)
        self._rest, self._number, self._session = b"", 0, ""
        self.requests: list[str] = []
        self.errors: list[str] = []
        target = self.call("Target.createTarget", url="about:blank")["targetId"]
        self._session = self.call("Target.attachToTarget", targetId=target, flatten=True)["sessionId"]
        for domain in ("Page", "Runtime", "Network", "Log"):
            self.call(f"{domain}.enable")

    def call(self, method: str, **parameters: Any) -> dict[str, Any]:
        """One command, and what it gives."""
        self._number += 1
        message = {"id": self._number, "method": method, "params": parameters}
        message |= {"sessionId": self._session} if self._session else {}
        os.write(self._to, json.dumps(message).encode() + b"\0")
        while (answer := self._next()).get("id") != self._number:
            self._heard(answer)
        if "error" in answer:
            raise RuntimeError(f"{method}: {answer['error']}")
        return answer["result"]

    def _next(self) -> dict[str, Any]:
        while b"\0" not in self._rest:
            more = os.read(self._from, 1 << 16)
            if not more:
                raise RuntimeError("the browser has ended")
            self._rest += more
        line, self._rest = self._rest.split(b"\0", 1)
        return json.loads(line)

    def _heard(self, event: dict[str, Any]) -> None:
        said = event.get("params", {})
        if event.get("method") == "Network.requestWillBeSent":
            self.requests.append(said["request"]["url"])
        elif event.get("method") == "Runtime.exceptionThrown":
            self.errors.append(said["exceptionDetails"]["text"])
        elif event.get("method") == "Log.entryAdded":
            self.errors.append(said["entry"]["text"])

    def open(self, path: Path, width: int = 1280, height: int = 800, dark: bool = False) -> None:
        """A page from a file, in a window of this size."""
        self.call("Emulation.setDeviceMetricsOverride", width=width, height=height, deviceScaleFactor=1, mobile=False)
        mode = [{"name": "prefers-color-scheme", "value": "dark" if dark else "light"}]
        self.call("Emulation.setEmulatedMedia", features=mode)
        self.call("Page.navigate", url=path.resolve().as_uri())
        while self.run("document.readyState") != "complete":
            pass

    def run(self, script: str) -> Any:
        """The value of an expression in the page."""
        given = self.call("Runtime.evaluate", expression=script, returnByValue=True, awaitPromise=True)
        if "exceptionDetails" in given:
            raise RuntimeError(given["exceptionDetails"]["exception"]["description"])
        return given["result"].get("value")

    def press(self, key: str, code: int) -> None:
        """A key on the keyboard, wherever the focus is."""
        text = {"Enter": "\r"}.get(key, "")
        for kind in ("keyDown", "keyUp"):
            down = {"text": text} if kind == "keyDown" and text else {}
            self.call("Input.dispatchKeyEvent", type=kind, key=key, code=key, windowsVirtualKeyCode=code, **down)

    def click(self, selector: str) -> None:
        """A click with the mouse into the middle of the first element that fits."""
        box = self.run(
            f"(() => {{ const one = document.querySelector({json.dumps(selector)}); one.scrollIntoView({{block: 'center'}});"
            " const box = one.getBoundingClientRect(); return [box.x + box.width / 2, box.y + box.height / 2]; })()"
        )
        for kind in ("mousePressed", "mouseReleased"):
            self.call("Input.dispatchMouseEvent", type=kind, x=box[0], y=box[1], button="left", clickCount=1)

    def screenshot(self, path: Path) -> None:
        """What is seen, as a PNG."""
        path.write_bytes(base64.b64decode(self.call("Page.captureScreenshot", format="png")["data"]))

    def close(self) -> None:
        """End the browser."""
        self._process.kill()
        self._process.wait()
        os.close(self._to)
        os.close(self._from)
        shutil.rmtree(self._folder, ignore_errors=True)
