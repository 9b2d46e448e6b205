"""Findings in words: a few sentences on a result, made from its table alone; they say nothing it does not carry."""

from collections.abc import Callable, Sequence
from importlib import import_module

from millstone.core.tables.result import Result
from millstone.study.record.in_words.sentence import Sentence

_MODULE_OF = {
    **dict.fromkeys(("keyness", "contexts", "logodds", "freq"), "of_terms"),
    **dict.fromkeys(("contrast", "categories", "profile", "trend", "plan"), "of_values"),
    **dict.fromkeys(("vary", "moved"), "of_settings"),
    **dict.fromkeys(("agreement", "corrected"), "of_codes"),
    **dict.fromkeys(
        ("concordance", "collocates", "dispersion", "network", "alike", "difference", "wordtree", "matrix"),
        "of_places",
    ),
}


def in_words(result: Result) -> list[Sentence]:
    """The findings of a result, two to four sentences per list or comparison, at most three of these.

    Parameters
    ----------
    result : Result
        Whole, before its first rows are chosen.
    """
    module = _MODULE_OF.get(result.command)
    if module is None or not len(result.table):
        return []
    found: Callable[[Result], Sequence[Sentence]] = getattr(
        import_module(f"millstone.study.record.in_words.{module}"), result.command
    )
    return list(found(result))
