"""Provenance: the files that were read or passed over, for the summary and for companions."""

from collections import Counter
from dataclasses import dataclass, field


@dataclass(frozen=True)
class SourceFile:
    """One file that was read: where it lies, its bytes, and what shows whether it was changed since.

    `sha256` is empty until it is asked for (`files.hashed`), since hashing takes as long as reading.
    """

    path: str
    size: int
    changed: int = 0
    inode: int = 0
    sha256: str = ""


@dataclass
class Provenance:
    """Filled while documents are read; `groups` in the order of the inputs, natural order within one.

    `skipped` holds name and reason; `encodings` how many files are in which.
    """

    files: list[SourceFile] = field(default_factory=list)
    groups: list[str] = field(default_factory=list)
    skipped: list[tuple[str, str]] = field(default_factory=list)
    encodings: Counter[str] = field(default_factory=Counter)
    empty_cells: int = 0
    filtered: int = 0
    notes: list[str] = field(default_factory=list)

    def add(self, other: "Provenance") -> None:
        """Add what was read in a part that comes after, without its groups."""
        self.files += other.files
        self.skipped += other.skipped
        self.encodings += other.encodings
        self.empty_cells += other.empty_cells
        self.filtered += other.filtered
        for text in other.notes:
            self.note(text)

    def note(self, text: str) -> None:
        """Something the user should know; each note is kept once."""
        if text not in self.notes:
            self.notes.append(text)
