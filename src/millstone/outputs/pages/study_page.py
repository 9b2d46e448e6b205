"""The report of a study: what its page is filled with."""

from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from millstone.outputs.pages.page import page
from millstone.outputs.pages.table import TableView


@dataclass(frozen=True)
class Link:
    """A file, as it is called and as the page finds it."""

    name: str
    href: str


@dataclass(frozen=True)
class SettingView:
    """A setting as it is typed, and what it means."""

    typed: str
    meaning: str


@dataclass(frozen=True)
class FindingView:
    """The findings of a step: its number and heading, and sentences whose numbers are linked to their rows."""

    number: int
    id: str
    heading: str
    sentences: Markup


@dataclass(frozen=True)
class StepView:
    """One step: its heading, what it asks, how it is typed, what was read, and what came of it."""

    id: str
    heading: str
    question: str
    command: str
    read: Sequence[str]
    notes: Sequence[str]
    settings: Sequence[SettingView]
    figure: Markup | None
    table: TableView | None
    files: Sequence[Link]


@dataclass(frozen=True)
class StudyView:
    """A whole study; `date` is that of its newest text, and `again` how to make the page again."""

    authors: Sequence[str]
    date: str
    version: str
    steps: Sequence[StepView]
    findings: Sequence[FindingView]
    methods: str
    groups: TableView
    inputs: TableView
    versions: Sequence[str]
    citation: str
    again: str
    appendix: Sequence[tuple[str, str]] = (
        ("inputs", "The texts"),
        ("versions", "Versions"),
        ("cite", "How to cite millstone"),
    )


def study_page(title: str, study: StudyView) -> bytes:
    """The page in UTF-8."""
    return page("study.html", title, "tables.js", study=study)
