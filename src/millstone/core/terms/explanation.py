"""Explanations of what preparation makes of a word, and why."""

from collections.abc import Iterable, Sequence

from millstone.core.corpus.corpus import Corpus
from millstone.core.matrix.totals import column_sums
from millstone.core.terms.lemmas import NO_PRONOUN
from millstone.core.terms.term_map import TermMap, is_spared
from millstone.core.terms.word_lists import WordList, WordLists, entry_tokens
from millstone.core.tokenise.words import fold_case


def explained(
    word: str, corpus: Corpus, term_map: TermMap, lists: WordLists, near: Corpus | None = None
) -> list[str]:
    """Explain what happens to a word, a line for each written form; for a resulting term, all its forms.

    Of one that is cut into several, each is explained below a line that says so. Empty when the texts have none.

    Parameters
    ----------
    word : str
        As typed.
    corpus : Corpus
    term_map : TermMap
    lists : WordLists
        Word lists, as they were read.
    near : Corpus, optional
        The corpus of the tokens that ``--around`` keeps.

    Returns
    -------
    list of str
    """
    wanted = fold_case(" ".join(entry_tokens(word)))
    written = [number for number, form in enumerate(corpus.forms) if fold_case(form) == wanted]
    results = term_map.stages[-1].values
    of_term = [number for number, result in enumerate(results) if fold_case(result) == wanted]
    totals = column_sums(corpus.form_counts)
    numbers = sorted({*written, *of_term}, key=lambda number: (-int(totals[number]), corpus.forms[number]))
    stories = [_story(number, corpus, term_map, lists, int(totals[number])) for number in numbers]
    tokens = entry_tokens(word)
    if not stories and len(tokens) > 1:
        # a word for whoever typed it, several under the rule of tokens
        parts = [line for token in dict.fromkeys(tokens) for line in explained(token, corpus, term_map, lists, near)]
        cut = f'"{word}" is cut into {len(tokens)} words: {", ".join(tokens)}'
        return [cut, *(f"  {line}" for line in parts)] if parts else []
    if near is None:
        return stories
    kept = dict(zip(near.annotation or near.forms, column_sums(near.form_counts).tolist(), strict=True))
    keys = corpus.annotation or corpus.forms
    return [
        f"{story}; around leaves out {int(totals[number]) - kept.get(keys[number], 0):,} of them"
        for story, number in zip(stories, numbers, strict=True)
    ]


def _story(number: int, corpus: Corpus, term_map: TermMap, lists: WordLists, total: int) -> str:
    token = corpus.annotation[number] if corpus.annotation else None
    tag = f" ({token.tag})" if token and token.tag else ""
    parts = [f'"{corpus.forms[number]}"{tag}']
    before = corpus.forms[number]
    for stage in term_map.stages:
        source = stage.sources[number] if stage.sources else ""
        if stage.values[number] != before or source == NO_PRONOUN:
            before = stage.values[number]
            parts.append(f'{stage.name} "{before}"{f" ({source})" if source else ""}')
    rule = -1 - int(term_map.term_of[number])
    if rule >= 0:
        name = term_map.rules[rule]
        parts.append(f"left out ({_with_class(name, (before, term_map.stages[0].values[number]), lists.stop)})")
    else:
        spared = lists.spare is not None and is_spared(lists, (before, term_map.stages[0].values[number]), term_map)
        parts.append(f'counted as "{before}"{" (spared)" if spared else ""}')
    return f"{' -> '.join(parts)}, {total:,} times" if total != 1 else f"{' -> '.join(parts)}, once"


def _with_class(rule: str, values: Iterable[str], stop_lists: Sequence[WordList]) -> str:
    for stop_list in stop_lists:
        if rule == stop_list.rule:
            classes = [stop_list.classes[value] for value in values if value in stop_list.classes]
            return f"{rule}:{classes[0]}" if classes else rule
    return rule
