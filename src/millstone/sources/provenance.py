"""What was read, and what was passed over: told in the summary and kept beside the results."""

import hashlib
from dataclasses import dataclass, field
from pathlib import Path


@dataclass(frozen=True)
class SourceFile:
    """One file that was read: where it lies, its bytes and their SHA-256."""

    path: str
    size: int
    sha256: str


@dataclass
class Provenance:
    """Filled while documents are read; `groups` in the order of the inputs, natural order within one."""

    files: list[SourceFile] = field(default_factory=list)
    groups: list[str] = field(default_factory=list)
    skipped: list[str] = field(default_factory=list)
    empty_cells: int = 0
    notes: list[str] = field(default_factory=list)

    def add(self, path: Path, data: bytes) -> None:
        """Note a file that was read."""
        self.files.append(SourceFile(str(path), len(data), hashlib.sha256(data).hexdigest()))

    def note(self, text: str) -> None:
        """Something the user should know, told once."""
        if text not in self.notes:
            self.notes.append(text)
