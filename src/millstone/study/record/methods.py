"""How texts were prepared, in a paragraph that a methods section can quote."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from millstone.analyses.base.groups.held_equal import fields_held
from millstone.analyses.keyness.comparing.notes import has_units, test_in_force
from millstone.core.base.version import VERSION
from millstone.core.base.wording import numbered
from millstone.core.corpus.corpus import GroupSize, whole_size
from millstone.core.settings.declare import changed
from millstone.core.settings.inputs import InputOptions
from millstone.core.settings.preparation import Preparation
from millstone.core.tables.result import Result
from millstone.texts.inputs.finding.finding import seen_from

_RULES = {
    "words": "A token is a word: letters and digits with the apostrophes and hyphens inside it.",
    "spaces": "A token is what stands between white space.",
    "characters": "A token is a single character.",
}


def _all(words: Sequence[object]) -> str:
    """``a, b and c``."""
    every = [str(word) for word in words]
    return " and ".join(filter(None, (", ".join(every[:-1]), every[-1]))) if every else ""


def _range(values: tuple[int, int | None]) -> str:
    low, high = values
    if high is None:
        return f"{low} or more"
    return f"{low}" if low == high else f"{low} to {high}"


CLAUSES: Mapping[str, Callable[[Any], str]] = {
    "drop_repeats": lambda on: "Documents whose text had occurred before in the same group were left out.",
    "drop_running": lambda n: (
        f"Lines that recur {n} times or more on different pages or in different documents were left out."
    ),
    "cut": lambda what: f"Removed from the texts: {_all(what)}.",
    "mend": lambda what: f"Repaired in the texts: {_all(what)}.",
    "tokens": lambda rule: _RULES.get(rule, f"A token is what fits the regular expression {rule.partition(':')[2]}."),
    "tag": lambda code: f"Parts of speech and lemmas were guessed by a statistical tagger (language: {code}).",
    "min_tokens": lambda n: f"Documents of fewer than {numbered(n, 'token')} were left out.",
    "drop_near_duplicates": lambda share: (
        f"Documents that have {100 * share:.0f} % or more of their runs of five words in common with another one of "
        "the same group were left out."
    ),
    "keep": lambda which: f"Of near-duplicates the {which.partition(':')[0]} was kept.",
    "around": lambda nodes: f"Only words near {_all(nodes)} were counted.",
    "around_span": lambda span: f"Near is up to {numbered(span[0], 'word')} before and {span[1]} after.",
    "punctuation": lambda how: "Marks of punctuation were counted as terms, and are not part of corpus sizes.",
    "case": lambda how: "Capital and small letters were counted separately.",
    "phrases": lambda files: (
        f"The expressions of several words listed in {_all(_names(files))} were counted as one term each."
    ),
    "pos": lambda tags: f"Only words tagged {_all(tags)} were counted.",
    "lemmas": lambda given: f"Words were counted by their lemmas (source: {_all(_names(given))}).",
    "stem": lambda code: f"Words were counted by their Snowball stems (language: {code}).",
    "merge": lambda files: f"The words listed in {_all(_names(files))} were counted as one term each.",
    "numbers": lambda how: "Tokens without a letter were left out.",
    "drop": lambda globs: f"Words that fit {_all(globs)} were left out.",
    "stop": lambda lists: f"The words of the stop list{'s' * (len(lists) > 1)} {_all(_names(lists))} were left out.",
    "length": lambda span: f"Only terms of {_range(span)} characters were counted.",
    "only": lambda lists: f"Only these words, or the words of these lists, were counted: {_all(_names(lists))}.",
    "ngram": lambda span: f"What was counted are n-grams of {_range(span)} words within a sentence.",
    "bridge": lambda on: "N-grams reach over words that were left out.",
    "spare": lambda words: f"Never left out or changed: {_all(_names(words))}.",
    "base": lambda how: "Rates are of the tokens that no rule left out.",
}
"""Setting of preparation that is not the default -> the sentence that says so."""


def _names(given: Sequence[str]) -> list[str]:
    return [Path(one).name for one in given]


def methods(
    inputs: Sequence[str], reading: InputOptions, preparation: Preparation, groups: Sequence[GroupSize], folder: Path
) -> str:
    """The paragraph.

    Parameters
    ----------
    inputs : sequence of str
    reading, preparation
        The settings of the study.
    groups : sequence of GroupSize
        Of its first step with texts.
    folder : Path
        Paths are given as seen from here.
    """
    sentences = [_texts(inputs, reading, folder)]
    given = {**changed(preparation)}
    sentences += [] if "tokens" in given else [_RULES["words"]]
    sentences += [CLAUSES[name](value) for name, value in given.items()]
    if "case" not in given:
        sentences.append("Capital and small letters were counted alike.")
    if "base" not in given and groups:
        sentences.append("Rates are of all word tokens, whatever was left out of the lists.")
    made = f"All results were computed with millstone {VERSION}."
    return " ".join([*sentences, *_sizes(groups), made])


_TESTS = {
    "documents": "over documents, by a quasi-likelihood test that allows for how much each term varies between them "
    "(Wedderburn 1974; McCullagh 1983); the 95 % intervals of the log ratio hold the ratios that the test does not "
    "reject",
    "ll": "over tokens, by log-likelihood (Rayson & Garside 2000)",
    "g2": "by the log-likelihood of the four-cell table (Dunning 1993)",
    "chi2": "over tokens, by Pearson's chi-squared",
    "fisher": "over tokens, by Fisher's exact test (1934)",
    "welch": "by Welch's test (1947) of their rates in documents",
    "rank": "by Mann and Whitney's test (1947) of their rates in documents",
    "permutation": "by relabelling documents (Janssen 1997)",
}
_HOLDING = (
    ": they and their p are of log-linear models of counts with these fields and the group, with a dispersion over "
    "sampling units (Nelder & Wedderburn 1972; Wedderburn 1974)."
)
_ADJUSTMENTS = {
    "bh": "p was adjusted after Benjamini & Hochberg (1995)",
    "holm": "p was adjusted after Holm (1979)",
    "bonferroni": "p was adjusted after Bonferroni",
    "none": "p was not adjusted for the number of terms",
}


def _of_keyness(result: Result) -> str:
    """The sentence on how terms were compared."""
    settings = result.settings
    adjusted = _ADJUSTMENTS[str(settings.get("adjust", "bh"))]
    unit = settings.get("sampling_unit")
    units = f" Documents with the same {unit} are one sampling unit." if unit and has_units(result) else ""
    fields = fields_held(settings)
    held = f" The conditional ratios hold {_all(fields)} equal{_HOLDING}" if fields and has_units(result) else ""
    return f"Terms were compared {_TESTS[test_in_force(result)]}; {adjusted}.{units}{held}"


def _of_trend(result: Result) -> str:
    """The sentence on how changes over periods were found."""
    adjusted = _ADJUSTMENTS[str(result.settings.get("adjust", "bh"))]
    return (
        f"Rates were followed over {result.settings.get('over')} by log-linear models of the counts of periods, with "
        "a dispersion from Pearson's chi-squared and Student's t on the number of periods less two (McCullagh & "
        f"Nelder 1989); {adjusted}."
    )


def _texts(inputs: Sequence[str], reading: InputOptions, folder: Path) -> str:
    seen = [seen_from(folder, one).partition("=") for one in inputs]
    names = [f"{path} (as {name})" if equals else name for name, equals, path in seen]
    said = f"The texts were read from {_all(names)}"
    said += f" (column {reading.text})" if reading.text else ""
    said += f" and grouped by {reading.group}" if reading.group else ""
    if reading.unit.kind != "whole":
        said += f"; what counts as a document is set by the unit {reading.unit}"
    said += f"; only those with {_all(reading.where)} were kept" if reading.where else ""
    return said + "."


def _sizes(groups: Sequence[GroupSize]) -> list[str]:
    if not groups or not any(size.tokens for size in groups):
        return []
    whole = whole_size(groups)
    each = "; ".join(f"{size.name} {size.documents:,} ({numbered(size.tokens, 'token')})" for size in groups)
    return [f"The corpus has {whole.number} and {numbered(whole.tokens, 'word token')}: {each}."]


TESTS_OF = {"keyness": _of_keyness, "trend": _of_trend}
"""The sentence on how a command tests, from its result."""
