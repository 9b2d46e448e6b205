"""Why a row moves between two combinations of settings: what became of the words that count as its term."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Any

import numpy as np

from millstone.analyses.base.step import Step
from millstone.analyses.vary.grid import Combination, options_between
from millstone.core.base.wording import listed
from millstone.core.corpus.corpus import Corpus, GroupSize, group_codes
from millstone.core.matrix.totals import column_sums
from millstone.core.settings.declare import option
from millstone.core.terms.counts import Counts
from millstone.core.terms.term_map import TermMap
from millstone.texts.term_counts import TermCounts

_OF_TEXTS = (
    *("where", "unit", "navigation", "drop_repeats", "drop_running", "cut", "mend", "tokens", "min_tokens"),
    *("drop_near_duplicates", "keep", "around", "around_span", "punctuation", "tag", "phrases"),
)
"""Options that decide which tokens there are."""
_OF_EFFECT = {
    "base": "other base",
    "against": "other reference",
    "against_group": "other reference",
    "test": "other test",
    "sampling_unit": "other sampling units",
    "independent_units": "other sampling units",
    "dictionary": "other dictionary",
    "scale": "other scale",
    "rank_by": "other ranking",
    "prior": "other prior",
    "prior_weight": "other prior",
    "prior_count": "other prior",
}
_WORDS = 3
_BEFORE = "without "
"""The beginning of a reason that held under the first combination only."""
_CHANGED = 1e-9


@dataclass(frozen=True)
class Side:
    """One of two combinations: its settings, and what was counted under them, if words were.

    Attributes
    ----------
    combination : Combination
    counted : TermCounts or None
    named : mapping
        Term -> the name of its common row, where that is another word.
    """

    combination: Combination
    counted: TermCounts | None
    named: Mapping[str, str]

    @property
    def step(self) -> Step[Any]:
        """The step that was carried out."""
        return self.combination.step

    @property
    def _corpus(self) -> Corpus:
        assert self.counted is not None
        return self.counted.prepared.corpus

    @property
    def _map(self) -> TermMap:
        assert self.counted is not None
        return self.counted.prepared.term_map

    @cached_property
    def _place(self) -> dict[str, int]:
        """Written form -> its number."""
        return {form: number for number, form in enumerate(self._corpus.forms)}

    @cached_property
    def _totals(self) -> np.ndarray:
        return np.asarray(column_sums(self._corpus.form_counts))

    @cached_property
    def _by_term(self) -> tuple[np.ndarray, np.ndarray]:
        """The numbers of the forms in the order of their terms, the commonest first; and the terms in that order."""
        order = np.lexsort((-self._totals, self._map.term_of))
        return order, self._map.term_of[order]

    def rule_of(self, form: str) -> str:
        """The rule that left a written form out; empty where none did."""
        number = int(self._map.term_of[self._place[form]]) if form in self._place else 0
        return self._map.rules[-1 - number] if number < 0 else ""

    def term_of(self, form: str) -> str:
        """The term that a written form counts as; empty where it is left out or not known."""
        number = int(self._map.term_of[self._place[form]]) if form in self._place else -1
        return str(self._map.terms[number]) if number >= 0 else ""

    def name_of(self, form: str) -> str:
        """The name of the common row of a written form; empty where it is left out or not known."""
        term = self.term_of(form)
        return self.named.get(term, term)

    def written(self, form: str) -> str:
        """A written form in its case."""
        return self._map.stages[0].values[self._place[form]] if form in self._place else form

    def stages_of(self, form: str) -> list[str]:
        """The rules that changed a written form, beyond case."""
        if form not in self._place:
            return []
        number = self._place[form]
        return [
            after.name
            for before, after in pairwise(self._map.stages)
            if before.values[number] != after.values[number]
        ]

    def forms_of(self, name: str) -> list[str]:
        """The written forms that count as the term of a common row, the commonest first."""
        if name not in self._numbers_of_words:
            return []
        order, terms = self._by_term
        number = self._numbers_of_words[name]
        first, after = np.searchsorted(terms, [number, number + 1])
        return [self._corpus.forms[place] for place in order[first:after].tolist()]

    @cached_property
    def _numbers_of_words(self) -> dict[str, int]:
        return {self.named.get(term, term): number for number, term in enumerate(map(str, self._map.terms))}

    @cached_property
    def numbers(self) -> dict[str, int]:
        """Name of a common row -> the number of its term among those counted, be they words or n-grams."""
        terms = self.counts.terms if self.counted else ()
        return {self.named.get(term, term): number for number, term in enumerate(map(str, terms))}

    @property
    def counts(self) -> Counts:
        """The counts of single terms, or of n-grams of the first size."""
        assert self.counted is not None
        return next(iter(self.counted.counted.values()))

    @cached_property
    def sizes(self) -> dict[str, GroupSize]:
        """Group -> its size."""
        return {size.name: size for size in self.counts.sizes} if self.counted else {}

    def occurs(self, form: str, groups: Sequence[str]) -> bool:
        """Whether a written form occurs in some groups; in any text where one of them is not known."""
        return form in self._place and bool(self._in_groups(tuple(groups))[self._place[form]])

    def _in_groups(self, groups: tuple[str, ...]) -> np.ndarray:
        """(forms,) occurrences in some groups, in all where one of them is not known."""
        corpus = self._corpus
        if not groups or any(group not in corpus.groups for group in groups):
            return self._totals
        if groups not in self._kept:
            places = [corpus.groups.index(group) for group in groups]
            rows = np.flatnonzero(np.isin(group_codes(corpus.documents, corpus.groups), places))
            self._kept[groups] = np.asarray(column_sums(corpus.form_counts.rows(rows)))
        return self._kept[groups]

    @cached_property
    def _kept(self) -> dict[tuple[str, ...], np.ndarray]:
        return {}


class Reasons:
    """Why rows move between two combinations.

    Parameters
    ----------
    first, second : Side
    """

    def __init__(self, first: Side, second: Side) -> None:
        self._first, self._second = first, second
        self._differing = options_between(first.combination, second.combination)
        self._words = first.counted is not None and second.counted is not None
        self._is_other_base = first.sizes != second.sizes

    def of_entering(self, term: str, groups: Sequence[str]) -> str:
        """Why a row is there under the second combination only; `groups` are those of its list."""
        found = list(self._missing(term, self._second, self._first, groups))
        found += [f"no longer {why}" for why in self._limits(term, self._first, groups)]
        return "; ".join(dict.fromkeys(found)) or self._by_options()

    def of_leaving(self, term: str, groups: Sequence[str]) -> str:
        """Why a row is there under the first combination only; `groups` are those of its list."""
        found = [*self._missing(term, self._first, self._second, groups), *self._limits(term, self._second, groups)]
        return "; ".join(dict.fromkeys(found)) or self._by_options()

    def of_moving(
        self, term: str, freq: tuple[float, float], effect: tuple[float, float], groups: Sequence[str]
    ) -> str:
        """Why a row that both combinations have moved, from its occurrences and its effects."""
        found: list[str] = []
        is_other_freq = freq[0] != freq[1] and not np.isnan(freq).all()
        if self._words and is_other_freq:
            found += self._gained_and_lost(term, groups)
        if is_other_freq and not found:
            found += self._of_texts()
        changed = abs(effect[0] - effect[1]) > _CHANGED * max(map(abs, effect)) and not np.isnan(effect).any()
        if changed and not is_other_freq:
            found += self._of_effect()
        elif changed:
            found += [why for why in self._of_effect() if why != "other base" or "base" in self._differing]
        if not found and changed:
            found.append(self._by_options())
        return "; ".join(dict.fromkeys(found)) or "others before it came or left"

    def _missing(self, term: str, here: Side, there: Side, groups: Sequence[str]) -> Iterator[str]:
        """Tell what became of the words of a row that is here and not there."""
        if not self._words:
            return
        # an n-gram is gone with one of its words
        names = [term] if here.forms_of(term) else term.split()
        forms = [
            (name, form) for name in names for form in here.forms_of(name) or [name] if here.occurs(form, groups)
        ]
        unknown = [form for _, form in forms if not there.occurs(form, groups)]
        gone = [(name, form) for name, form in forms if form not in unknown and there.name_of(form) != name]
        if here is self._first:
            yield from _told(term, [(form, "") for _, form in gone], there, here)
        else:
            yield from _told(term, [(form, name) for name, form in gone], here, there)
        if unknown and len(unknown) == len(forms):
            yield from self._of_texts() or ["other texts"]

    def _limits(self, term: str, there: Side, groups: Sequence[str]) -> Iterator[str]:
        """The limits of a list that leave out a term that is counted."""
        if self._words and term in there.numbers:
            yield from _limits(there, term, groups)

    def _gained_and_lost(self, term: str, groups: Sequence[str]) -> Iterator[str]:
        """The words that count as a term under one of the combinations only."""
        first, second = (
            [form for form in side.forms_of(term) if side.occurs(form, groups)]
            for side in (self._first, self._second)
        )
        gained = [form for form in second if form not in first and self._first.occurs(form, groups)]
        lost = [form for form in first if form not in second and self._second.occurs(form, groups)]
        for forms, now in ((gained, term), (lost, "")):
            yield from _told(term, [(form, now) for form in forms], self._second, self._first)

    def _of_texts(self) -> list[str]:
        named = [name for name in self._differing if name in _OF_TEXTS]
        return [f"other texts: {listed(name.replace('_', '-') for name in named)}"] if named else []

    def _of_effect(self) -> list[str]:
        found = [_OF_EFFECT[name] for name in self._differing if name in _OF_EFFECT]
        if self._is_other_base:
            found += self._of_texts() or ["other base"]
        return list(dict.fromkeys(found))

    def _by_options(self) -> str:
        return "other " + listed(name.replace("_", "-") for name in self._differing)


def _told(term: str, forms: Sequence[tuple[str, str]], now: Side, before: Side) -> Iterator[str]:
    """Tell what became of written forms of a row between two sides: left out by a rule, or counted as something.

    Of a form that comes with a name, that is what it counts as now.
    """
    by: dict[tuple[str, str], list[str]] = {}
    for form, name in forms:
        rule, earlier = now.rule_of(form), before.rule_of(form)
        here, there = now.stages_of(form), before.stages_of(form)
        # what both sides do to it is no reason
        own, other = (
            [stage for stage in one if stage not in two] or one for one, two in ((here, there), (there, here))
        )
        if rule:
            by.setdefault((rule, ""), []).append(form)
        elif earlier:
            by.setdefault((f"{_BEFORE}{earlier}", ""), []).append(form)
        elif here or not there:
            by.setdefault((" and ".join(own) or "case", name or now.term_of(form)), []).append(form)
        else:
            by.setdefault((f"{_BEFORE}{' and '.join(other)}", before.term_of(form)), []).append(form)
    for (rule, name), some in by.items():
        words = some if rule == "case" else list(dict.fromkeys(map(now.written, some)))
        of_itself = not name and words == [term]
        yield rule if of_itself else f"{rule}: {listed(words, _WORDS)}" + (f" -> {name}" if name else "")


def _limits(there: Side, term: str, groups: Sequence[str]) -> Iterator[str]:
    """The limits of a list that leave a counted term out."""
    settings, counts = there.step.settings, there.counts
    inside = [group for group in groups if group in counts.groups]
    part = counts.part(tuple(inside) if inside and len(inside) == len(groups) else counts.groups)
    number = there.numbers[term]
    freq, docs = float(part.freq[number]), float(part.docs[number])
    if not freq:
        return
    if freq < getattr(settings, "min_freq", 0):
        yield f"below {option('min_freq')} {settings.min_freq}"
    elif docs < getattr(settings, "min_docs", 0):
        yield f"below {option('min_docs')} {settings.min_docs}"
    elif 0 < getattr(settings, "max_freq", 0) < freq:
        yield f"above {option('max_freq')} {settings.max_freq}"
    elif getattr(settings, "max_share", None):
        yield f"above {option('max_share')} {settings.max_share:g}"
    elif hasattr(settings, "min_together"):
        yield f"below {option('min_together')} {settings.min_together}, or not nearer than by chance"
