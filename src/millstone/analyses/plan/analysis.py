"""Plan: how large a difference would corpora of a given size show?"""

from collections.abc import Collection
from dataclasses import replace
from pathlib import Path

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.groups.pairs import check_two_groups
from millstone.analyses.base.step import Step
from millstone.analyses.base.term_results import counted_terms, noted_table, result_of_terms
from millstone.analyses.plan.compute import plan, plan_of_sizes
from millstone.analyses.plan.schema import schema
from millstone.analyses.plan.settings import PlanSettings, is_planned_group, planned_group
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import listed
from millstone.core.corpus.corpus import GroupSize
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.texts.scanned_texts import ScannedTexts


class PlanAnalysis(Analysis[PlanSettings]):
    """Plan: how large a difference would corpora of a given size show?"""

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def validate_settings(self, step: Step[PlanSettings]) -> Step[PlanSettings]:
        """Sizes come from texts, or are typed: further ones as inputs, too."""
        settings = step.settings
        for name, usual in (("power", 0.8), ("alpha", 0.05)):
            if getattr(settings, name) >= 1:
                raise UsageError(
                    f"--{name} {getattr(settings, name):g}: no test is so sure of what it finds or misses",
                    f"type a number between 0 and 1, such as {usual:g}",
                )
        if not settings.sizes:
            if settings.design_effect != PlanSettings().design_effect or settings.terms != PlanSettings().terms:
                raise UsageError(
                    "--design-effect and --terms are for --sizes: of texts both are measured",
                    "leave them out, or type --sizes NAME=DOCUMENTSxTOKENS in place of the texts",
                )
            step.require_input()
            return step
        if settings.design_effect < 1:
            raise UsageError(
                f"--design-effect {settings.design_effect:g}: words never vary less than chance would have it",
                "type 1 or more",
            )
        further = [typed for typed in step.inputs.input if is_planned_group(typed)]
        sizes = [*settings.sizes, *further]
        names = [planned_group(typed).name for typed in sizes]
        if len(set(names)) < max(2, len(names)):
            raise UsageError(
                f"--sizes: two groups of different names are compared, and there is {listed(names)}",
                "type --sizes old=20x5000,new=40x2000",
            )
        texts = replace(step.inputs, input=tuple(typed for typed in step.inputs.input if typed not in further))
        settings = replace(settings, sizes=tuple(sizes))
        return replace(step, inputs=texts, settings=settings, typed={**step.typed, "sizes": sizes})

    def check(self, step: Step[PlanSettings], made: Collection[Path]) -> None:
        """Texts and sizes are not given at once; what the other steps of a study read does not matter."""
        if step.settings.sizes and step.inputs.input and not step.study:
            raise UsageError(
                f"--sizes stands in place of texts, and {step.inputs.input[0]} is an input",
                "give one of the two; sizes are typed NAME=DOCUMENTSxTOKENS, with commas or blanks between them",
            )

    def check_groups(self, step: Step[PlanSettings], groups: tuple[str, ...]) -> None:
        """There are two groups of texts."""
        if not step.settings.sizes:
            check_two_groups(groups, "a plan")

    def row_limits(self, step: Step[PlanSettings]) -> tuple[int, int] | None:
        """How often a term must occur in a group, and in how many documents, to have a row."""
        return (step.settings.min_freq, step.settings.min_docs)

    def analyse(
        self, step: Step[PlanSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The smallest ratios that each pair of groups could show, by frequency."""
        settings = step.settings
        if settings.sizes:
            table = plan_of_sizes(settings, notes.append)
            sizes = tuple(
                GroupSize(one.name, one.documents, one.documents * one.tokens)
                for one in map(planned_group, settings.sizes)
            )
            columns = schema().of_table(table.names)
            return Result("plan", table, columns, sizes, step.typed, schema=schema(), is_planned=True)
        terms = counted_terms(step, material, notes)
        table = noted_table(terms, lambda counts, note: plan(counts, settings, note), notes)
        return result_of_terms(step, terms, table, notes)


ANALYSIS = PlanAnalysis()
