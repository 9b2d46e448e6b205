"""Profiles of groups or documents."""

from collections.abc import Collection
from typing import TYPE_CHECKING

from millstone.charts.settings import ProfileChartSettings
from millstone.core.errors import UsageError
from millstone.core.layout import Layout
from millstone.core.settings.analyses import ProfileSettings
from millstone.study.command import Command

if TYPE_CHECKING:
    from millstone.charts.draw import Figures
    from millstone.core.result import Result
    from millstone.study.command import Drawing
    from millstone.study.step import Step
    from millstone.study.texts.material import Material


def settle(step: "Step") -> "Step":
    """With ``--keep-all`` the rows of one table are kept, one row per document."""
    if step.settings.keep_all:
        from millstone.study.texts.aligned_table import by_row

        if not step.settings.per_document:
            raise UsageError("--keep-all keeps the rows of a table, and a row here is a group", "type --per-document")
        step = by_row(step)
    step.require_input()
    return step


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The measures of each group, or of each document."""
    from millstone.core.columns import COLUMNS, renamed
    from millstone.core.corpus.corpus import group_sizes, noun_of
    from millstone.core.describe.profile import MEASURES, profile
    from millstone.core.describe.word_classes import WORD_CLASSES, class_column
    from millstone.core.result import Result
    from millstone.core.table import is_missing
    from millstone.core.terms.counts import left_out_words
    from millstone.core.wording import numbered
    from millstone.study.texts.term_counts import prepared_terms

    prepared = prepared_terms(step, material, notes)
    corpus, term_map = prepared.corpus, prepared.term_map
    if step.preparation.ngram != (1, 1):
        notes.append("--ngram: no effect on a profile, which is of single terms")
    settings = step.settings
    table = profile(corpus, term_map, settings, material.repeats.in_group)
    if settings.per_document and not settings.keep_all:
        for given, name in renamed(corpus.documents.names, (*MEASURES, *WORD_CLASSES)).items():
            notes.append(f"the column {given!r} of the texts was renamed to {name!r}")
    for name, size in (("msttr", settings.segment), ("mattr", settings.window)):
        short = int(is_missing(table[name]).sum())
        if short:
            what = numbered(short, noun_of(corpus.documents) if settings.per_document else "group")
            notes.append(f"{name} is empty for {what} of fewer than {size:,} kept tokens")
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    columns = {name: COLUMNS[name] for name in table.names if name in COLUMNS and name not in corpus.documents}
    columns |= {name: COLUMNS[name] for name in ("document", "group") if name in table}
    columns |= {name: class_column(name) for name in table.names if name in WORD_CLASSES}
    return Result(
        "profile", table, columns, sizes, step.typed, left_out_words(corpus, term_map), layout=step.command.layout
    )


def columns(step: "Step") -> Collection[str]:
    """The columns that its table may have."""
    from millstone.core.describe.profile import MEASURES
    from millstone.core.describe.word_classes import WORD_CLASSES

    return () if step.settings.per_document else ("group", *MEASURES, *WORD_CLASSES)


def figures(result: str) -> "Figures":
    """The figures of its table."""
    from millstone.charts.figures import profile

    return {"measures": profile.draw}


COMMAND = Command(
    "profile",
    "how large, how varied, how repetitive is each group?",
    ProfileSettings,
    ProfileChartSettings,
    "tokens are all words, kept_tokens those that no rule left out; all the rest is computed on these, in\n"
    "the order of the text. ttr falls as texts get longer, so compare groups of different size by msttr,\n"
    "mattr or mtld. A measure is empty where there are too few tokens for it.",
    (
        "profile guestbook.csv --text entry --group hut",
        "profile journals --lemmas en --window 200",
        "profile journals --per-document --segment 500 -o journals.csv --chart journals.png",
    ),
    analyse,
    layout=Layout(
        leaving=(
            *("repeated_documents", "guiraud_r", "kept_tokens", "hapaxes", "yule_k", "msttr", "mean_word_length"),
            *("hapax_percent", "ttr"),
        ),
        marks=("group", "kept_tokens", "types", "mattr"),
        drawn=("group",),
    ),
    columns=columns,
    figures=figures,
    settle=settle,
    looks_at_order=lambda step: True,
    keeps_rows=lambda step: bool(step.settings.keep_all),
    of_plain_words=True,
    of_repeats=True,
)
