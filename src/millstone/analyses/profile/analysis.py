"""Profiles of groups or documents."""

from collections.abc import Collection

from millstone.analyses.base.aligned_table import by_row
from millstone.analyses.base.analysis import Analysis, DrawProgress, texts_of
from millstone.analyses.base.step import Step
from millstone.analyses.profile.compute import profile
from millstone.analyses.profile.intervals import LEAST_UNITS
from millstone.analyses.profile.measures import MEASURES
from millstone.analyses.profile.schema import schema
from millstone.analyses.profile.settings import ProfileSettings
from millstone.analyses.profile.word_classes import WORD_CLASSES
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import numbered
from millstone.core.corpus.corpus import group_sizes, noun_of
from millstone.core.tables.columns import PART_COLUMNS, renamed
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import is_missing
from millstone.core.terms.counts import left_out_words
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.term_counts import prepared_terms


class ProfileAnalysis(Analysis[ProfileSettings]):
    """Profiles of groups or documents."""

    ignores_punctuation = True
    tracks_duplicates = True

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def validate_settings(self, step: Step[ProfileSettings]) -> Step[ProfileSettings]:
        """With ``--keep-all`` the rows of one table are kept, one row per document."""
        if step.settings.equal_length == "0":
            raise UsageError("--equal-length 0: a sample needs tokens", "type a number of tokens, or shortest")
        if step.settings.keep_all:
            if not step.settings.per_document:
                raise UsageError(
                    "--keep-all keeps the rows of a table, and a row here is a group", "type --per-document"
                )
            step = by_row(step)
        step.require_input()
        return step

    def analyse(
        self, step: Step[ProfileSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The measures of each group, or of each document."""
        prepared = prepared_terms(texts_of(step), material, notes)
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
        if settings.equal_length and (short := int(is_missing(table["equal_types"]).sum())):
            what = numbered(short, noun_of(corpus.documents) if settings.per_document else "group")
            notes.append(f"equal_types is empty for {what} of fewer kept tokens than that (--equal-length)")
        if not settings.per_document and is_missing(table["hdd_low"]).all():
            notes.append(f"intervals are empty: no group has {LEAST_UNITS} sampling units or more")
        sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
        known, documents = self.schema().by_name, corpus.documents
        columns = {name: known[name] for name in table.names if name in known and name not in documents}
        columns |= {name: known[name] for name in ("document", "group") if name in table}
        left_out = left_out_words(corpus, term_map)
        if left_out and "kept_tokens" in columns:
            # the denominator of all other columns
            columns["kept_tokens"] = columns["kept_tokens"].having(priority=1)
        return Result("profile", table, columns, sizes, step.typed, left_out, schema=self.schema())

    def columns(self, step: Step[ProfileSettings]) -> Collection[str]:
        """The columns that its table may have."""
        of_documents = ("document", *PART_COLUMNS)
        return () if step.settings.per_document else [one for one in self.schema().names if one not in of_documents]

    def needs_token_order(self, step: Step[ProfileSettings]) -> bool:
        """Whether the order of the words must be known."""
        return True

    def appends_to_input_table(self, step: Step[ProfileSettings]) -> bool:
        """Whether results are appended to the input table (--keep-all)."""
        return bool(step.settings.keep_all)


ANALYSIS = ProfileAnalysis()
