"""The files that a study reads and writes, gathered while it is carried out."""

import os
from datetime import UTC, datetime
from pathlib import Path

from millstone.core.base.addresses import is_address
from millstone.outputs.files.companion import companion_path
from millstone.study.outputs import files_read, files_written
from millstone.study.runner import Outcome
from millstone.study.study import Study
from millstone.texts.inputs.files import STANDARD_INPUT, hashed, watched
from millstone.texts.inputs.provenance import Provenance, SourceFile

_NANOSECONDS = 10**9


class StudyFiles:
    """The texts, the lists and the results of a study, by their paths as seen from its own folder.

    Parameters
    ----------
    study : Study
    path : Path
        The study file.
    """

    def __init__(self, study: Study, path: Path) -> None:
        self.study, self.path = study, path
        self._texts: dict[str, SourceFile] = {}
        self.written: list[Path] = []

    def add(self, outcome: Outcome) -> None:
        """Take in what the next step read and wrote."""
        for file in outcome.material.provenance.files:
            is_here = file.path != STANDARD_INPUT and not is_address(file.path)
            name = self.seen(Path(file.path)) if is_here else file.path
            self._texts.setdefault(name, file)
        self.written += outcome.written

    def seen(self, path: Path) -> str:
        """A path as seen from the folder of the study."""
        return os.path.relpath(path, self.path.parent).replace(os.sep, "/")

    def texts(self) -> dict[str, SourceFile]:
        """The texts that were read, with their checksums."""
        self._texts = {name: hashed(file) for name, file in self._texts.items()}
        return self._texts

    def lists(self) -> dict[str, SourceFile]:
        """Dictionaries, word lists and tables that steps read, and no step makes, with their checksums.

        With each the companion beside it, without which a list is of a corpus of unknown size, and a coding sheet of
        units of unknown weight.
        """
        steps = self.study.steps
        made = {path.resolve() for step in steps for path in files_written(step)}
        found = {}
        read = [path for step in steps for path in files_read(step) if path.resolve() not in made]
        for path in dict.fromkeys([*read, *map(companion_path, read)]):
            name = self.seen(path)
            if path.is_file() and name not in self._texts and path.resolve() != self.path.resolve():
                provenance = Provenance()
                with watched(path, provenance):
                    pass
                found[name] = hashed(provenance.files[0])
        return found

    def date(self) -> str:
        """The date that the study gives, or that of its newest text: the same whenever it is carried out."""
        newest = max((file.changed for file in self._texts.values()), default=0)
        found = datetime.fromtimestamp(newest / _NANOSECONDS, UTC).date().isoformat() if newest else ""
        return self.study.date or found
