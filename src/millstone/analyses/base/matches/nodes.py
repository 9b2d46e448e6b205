"""Nodes: the expressions and categories that a step looks for, and their matches in its texts."""

from collections.abc import Collection, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from millstone.analyses.base.checks import check_exists, check_select
from millstone.analyses.base.matches.dictionary_input import dictionary_of
from millstone.analyses.base.settings import NodeSettings
from millstone.analyses.base.step import Step
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import likeness, nearest_word
from millstone.core.corpus.corpus import Corpus
from millstone.core.dictionary.matches import find_matches
from millstone.core.dictionary.overlaps import CategoryMatches
from millstone.core.matches.expressions import Expression, expression_from
from millstone.core.matches.matches import Matches, NamedWords, find_expression, has_near, has_tag, reach
from millstone.core.matrix.totals import column_sums
from millstone.core.terms.term_map import TermMap, check_annotation, map_terms
from millstone.core.terms.word_lists import folding
from millstone.texts.inputs.lists.dictionaries import ships
from millstone.texts.inputs.lists.word_lists import read_word_lists

if TYPE_CHECKING:
    from millstone.texts.scanned_texts import ScannedTexts
    from millstone.texts.term_counts import PreparedTerms

_NEAREST_AMONG = 20_000


def check_nodes(step: Step[Any], made: Collection[Path]) -> None:
    """The expressions of a step can be read, and its dictionary is there.

    Raises
    ------
    MillstoneError
    """
    settings: NodeSettings = step.settings
    if settings.find and settings.dictionary:
        raise UsageError("--find and --dictionary: one of them says what is looked for", "leave one of the two out")
    check_select(step)
    check_expressions(step)
    for option, typed in (("--near", settings.near), ("--not-near", settings.not_near)):
        for one in typed:
            expression_of(step, one, option)
    for path in settings.dictionary:
        if not ships(path):
            check_exists(path, "dictionary", made)
    if settings.dictionary and not any(Path(path).resolve() in made for path in settings.dictionary):
        dictionary_of(step)


def check_expressions(step: Step[Any]) -> None:
    """The expressions of ``--find`` can be read, and each has a different name.

    Raises
    ------
    UsageError
    """
    names = [one.name for one in expressions_of(step)]
    if twice := next((name for name in names if names.count(name) > 1), ""):
        raise UsageError(f"--find: two expressions are called {twice!r}", "name them: --find NAME=EXPRESSION")


def require_nodes(step: Step[Any]) -> Step[Any]:
    """Raise UsageError where nothing is looked for."""
    step.require_input()
    if not step.settings.find and not step.settings.dictionary:
        raise UsageError(
            f"{step.command.name} needs something to look for",
            "type --find EXPRESSION, such as --find hut, or --dictionary FILE --select CATEGORY",
        )
    return step


def expressions_of(step: Step[Any]) -> list[Expression]:
    """The expressions that a step looks for."""
    return [expression_of(step, typed) for typed in step.settings.find]


def expression_of(step: Step[Any], typed: str, option: str = "--find") -> Expression:
    """An expression as typed, under the token rule of a step."""
    return expression_from(typed, option, step.preparation.tokens)


def term_map_of(step: Step[Any], corpus: Corpus) -> TermMap:
    """The term map of a corpus under the preparation of a step."""
    return map_terms(corpus, step.preparation, read_word_lists(step.preparation))


def nodes_of(
    step: Step[Any], corpus: Corpus, notes: list[str], term_map: TermMap | None = None
) -> Mapping[str, Matches]:
    """The places of everything that a step looks for; what does not occur goes to `notes`.

    Parameters
    ----------
    step : Step[Any]
    corpus : Corpus
        From an ordered scan.
    notes : list of str
    term_map : TermMap, optional
        Of this corpus, where it is known.
    """
    settings: NodeSettings = step.settings
    check_annotation(corpus, step.preparation)
    words = words_of(step, corpus, term_map or term_map_of(step, corpus))
    if settings.dictionary:
        dictionary = dictionary_of(step)
        matches = find_matches(corpus, dictionary)
        found = {name: _spans(matches.places(name)) for name in dictionary.shown_categories}
        notes += [
            f"no entry of the category {name!r} occurs in the texts" for name, one in found.items() if not len(one)
        ]
    else:
        found = found_expressions(step, corpus, expressions_of(step), words, notes, settings.gap)
    return {name: _filtered(step, corpus, places, words) for name, places in found.items()}


def found_expressions(
    step: Step[Any],
    corpus: Corpus,
    expressions: Sequence[Expression],
    words: NamedWords,
    notes: list[str],
    gap: int = 0,
) -> dict[str, Matches]:
    """Name -> the places of each expression; what does not occur goes to `notes`."""
    found = {one.name: find_expression(corpus, one, words, gap) for one in expressions}
    notes += [_absent(step, one, corpus) for one in expressions if not len(found[one.name])]
    return found


def nodes_among(
    step: Step[Any], material: "ScannedTexts", prepared: "PreparedTerms", notes: list[str]
) -> Mapping[str, Matches]:
    """The nodes among the words of some texts, of which a phrase takes up none."""
    has_phrases = prepared.corpus is not material.corpus
    return nodes_of(step, material.corpus, notes, None if has_phrases else prepared.term_map)


def words_of(step: Step[Any], corpus: Corpus, term_map: TermMap) -> NamedWords:
    """The words of a corpus as the expressions of a step see them."""
    names: Sequence[str] = term_map.stages[-1].values if term_map.merged else ()
    return NamedWords(corpus, names, step.preparation.case == "keep")


def _spans(places: CategoryMatches) -> Matches:
    return Matches(places.start, places.length)


def _filtered(step: Step[Any], corpus: Corpus, places: Matches, words: NamedWords) -> Matches:
    """The places that lie near what they must, and have one of the tags that are asked for."""
    settings: NodeSettings = step.settings
    wanted = np.ones(len(places), dtype=bool)
    if step.preparation.pos:
        wanted &= has_tag(corpus, places, {tag.casefold() for tag in step.preparation.pos})
    if settings.near or settings.not_near:
        left, right = reach(corpus, places, settings.span, settings.within)
        for typed, is_wanted in (
            *((one, True) for one in settings.near),
            *((one, False) for one in settings.not_near),
        ):
            others = find_expression(corpus, expression_of(step, typed), words, settings.gap)
            wanted &= has_near(left, right, places, others) == is_wanted
    return places.at(np.flatnonzero(wanted))


def _absent(step: Step[Any], expression: Expression, corpus: Corpus) -> str:
    """A note that an expression does not occur, with the nearest word of the texts."""
    words = {word for row in expression.rows for word in row}
    known = corpus.forms[:_NEAREST_AMONG] if len(corpus.forms) <= _NEAREST_AMONG else _commonest(corpus)
    fold = folding(step.preparation.case)
    forms = set(map(fold, known))
    missing = sorted(fold(word).strip("*?") for word in words if fold(word) not in forms)
    pairs = [(word, near) for word in missing if (near := nearest_word(word, forms))]
    if not pairs:
        return f"no {expression.name!r} in the texts"
    _, nearest = max(pairs, key=lambda pair: likeness(*pair))
    return f"no {expression.name!r} in the texts; nearest: {nearest!r}"


def _commonest(corpus: Corpus) -> list[str]:
    freq = column_sums(corpus.form_counts)
    return [corpus.forms[number] for number in np.argsort(-freq, kind="stable")[:_NEAREST_AMONG].tolist()]
