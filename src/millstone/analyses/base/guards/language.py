"""A stop list or lemmas of another language than that of the texts."""

from millstone.analyses.base.guards.commonest import GroupWords
from millstone.core.base.wording import listed
from millstone.core.settings.preparation import Preparation
from millstone.texts.inputs.lists.told_language import TIMES_NEXT, language_name, share_of, told_language
from millstone.texts.inputs.lists.word_lists import stop_list_codes

_LOOK = {True: "look", False: "looks"}


def other_language(preparation: Preparation, words: GroupWords) -> list[str]:
    """A note for each option that names a language which some groups are not in.

    Parameters
    ----------
    preparation : Preparation
    words : mapping
        Group -> occurrences of its commonest words, and its tokens.
    """
    known = stop_list_codes()
    notes = []
    for option, values in (
        ("--stop", preparation.stop),
        ("--lemmas", preparation.lemmas),
        ("--stem", (preparation.stem,)),
    ):
        typed = [code for value in values if (code := value.partition(":")[0]) in known]
        if not typed:
            continue
        others: dict[str, dict[str, float]] = {}
        for group, (counted, tokens) in words.items():
            met = max(share_of(code, counted, tokens) for code in typed)
            told = told_language(counted, tokens) if met < 1 / TIMES_NEXT else None
            if told is not None and told.code not in typed and told.share >= TIMES_NEXT * met:
                others.setdefault(told.code, {})[group] = told.share
        for code, shares in others.items():
            looks = "the texts look" if len(shares) == len(words) else f"{listed(shares)} {_LOOK[len(shares) > 1]}"
            notes.append(
                f"{option} {','.join(typed)}: {looks} {language_name(code)} ({100 * max(shares.values()):.0f} % of "
                f"the tokens are function words of it); did you mean {option} {code}?"
            )
    return notes
