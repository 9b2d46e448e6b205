"""The reference page of tables: the columns of each, and the measures with their formulas and sources."""

from importlib import import_module
from importlib.util import find_spec
from typing import Any

from millstone.analyses import STEPS
from millstone.analyses.base.analysis import analysis_named
from millstone.cli.manual.markdown import NOTE, escaped
from millstone.core.tables.measures import Measures


def tables_page() -> str:
    """The page, in Markdown."""
    lines = [
        NOTE,
        "# Tables and measures",
        "",
        "The columns of each table, in the order in which a screen shows them.",
    ]
    lines += ["Categories, metadata of documents and the terms of a matrix have columns of their own names.", ""]
    for name in STEPS:
        for schema in (analysis_named(name).schema(), *analysis_named(name).further_schemas()):
            further = "" if schema.name == name else f": {schema.name}"
            lines += [f"## {name}{further}", "", "| column | meaning | unit | type |", "|---|---|---|---|"]
            lines += [
                f"| `{one.name}` | {escaped(one.meaning)} | {one.unit} | {one.datatype} |" for one in schema.columns
            ]
            lines.append("")
        if (measures := measures_of(name)) is not None:
            lines += [f"### Measures of {name}", "", f"Of {escaped(measures.about)}.", ""]
            lines += ["| measure | formula | source | range |", "|---|---|---|---|"]
            lines += [
                f"| `{one.name}` | {escaped(one.formula)} | {one.source} | {one.span} |" for one in measures.values()
            ]
            lines.append("")
    return "\n".join(lines)


def measures_of(command: str) -> Measures[Any] | None:
    """The registry of measures that a command has."""
    module = f"millstone.analyses.{command}.measures"
    if find_spec(module) is None:
        return None
    found: Measures[Any] = import_module(module).MEASURES
    return found
