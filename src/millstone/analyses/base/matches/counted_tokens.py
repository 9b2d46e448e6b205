"""The tokens of some texts that a step counts: those that ``--around`` leaves, each phrase as one."""

from typing import Any

from millstone.analyses.base.matches.context_filter import near_of
from millstone.analyses.base.step import Step
from millstone.core.corpus.corpus import Corpus
from millstone.core.matches.term_matches import CountedTokens
from millstone.texts.inputs.lists.word_lists import read_phrases


def tokens_left(step: Step[Any], corpus: Corpus) -> CountedTokens:
    """The tokens of the texts that ``--around`` leaves."""
    tokens = CountedTokens.all_of(corpus)
    return tokens.near(near_of(step, corpus, [])[0]) if step.preparation.around else tokens


def with_phrases(step: Step[Any], tokens: CountedTokens) -> CountedTokens:
    """Tokens with each phrase of a step as one."""
    case = step.preparation.case
    return tokens.with_phrases(read_phrases(step.preparation.phrases, case), case)


def counted_tokens(step: Step[Any], corpus: Corpus) -> CountedTokens:
    """The tokens that a step counts, of texts in which ``--around`` has not left any out yet."""
    return with_phrases(step, tokens_left(step, corpus))
