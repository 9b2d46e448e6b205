"""A study: its title, its shared settings, its steps."""

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from millstone.analyses.base.step import Step
from millstone.core.base.light_dataclass import frozen


@frozen
class Author:
    """Someone who made a study, with an ORCID identifier or without."""

    name: str
    orcid: str = ""


@frozen
class Study:
    """A study file: what it is called, where results go, its shared settings and its steps.

    `report` is the name of its page; `date` is given where it is not to be that of the newest text; `notes` say which
    of its keys are left out of account.
    """

    title: str
    output: Path
    shared: Mapping[str, Any]
    shown: Mapping[str, Any]
    steps: tuple[Step[Any], ...]
    report: str = "report.html"
    authors: tuple[Author, ...] = ()
    licence: str = ""
    date: str = ""
    notes: tuple[str, ...] = ()

    @property
    def page(self) -> Path:
        """Where its report goes."""
        return self.output / self.report
