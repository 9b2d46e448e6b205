"""A stream of documents tagged, in several processes at once."""

import multiprocessing
import sys
from collections import deque
from collections.abc import Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from itertools import chain, islice

from millstone.core.corpus.corpus import Document
from millstone.core.errors import MillstoneError
from millstone.sources.provenance import Provenance
from millstone.sources.tags.tagger import LANGUAGES, Guesses, tagged, tagger_name

_BATCH = 20_000
_AHEAD = 3
_MOSTLY = 0.5


def with_tags(
    documents: Iterable[Document], language: str, rule: str, jobs: int, provenance: Provenance
) -> Iterator[Document]:
    """The documents in their order, raw ones with parts of speech and lemmas that are guessed.

    Parameters
    ----------
    documents : iterable of Document
    language : str
        ``en``, ``de`` or ``nl``.
    rule : str
        The token rule.
    jobs : int
        How many processes may work at once.
    provenance : Provenance
        Receives who guessed, and what speaks against it.

    Raises
    ------
    MillstoneError
        When a process was ended from outside.
    """
    guesses = Guesses()
    batches = _batches(documents)
    first = list(islice(batches, 2))
    several = jobs > 1 and len(first) > 1
    every = chain(first, batches)
    done = _in_processes(every, language, rule, jobs) if several else (tagged(one, language, rule) for one in every)
    for batch, found in done:
        guesses.add(found)
        yield from batch
    if guesses.words:
        provenance.note(f"parts of speech and lemmas are guessed: {tagger_name()}, {LANGUAGES[language]}")
    if guesses.unknown > _MOSTLY * guesses.words:
        share = f"{100 * guesses.unknown / guesses.words:.0f} % of the words"
        provenance.note(f"{share} are unknown to the tagger: are the texts in {LANGUAGES[language]}?")
    if guesses.annotated:
        provenance.note("texts that have tags keep their own; --tag is for raw text")


def _batches(documents: Iterable[Document]) -> Iterator[list[Document]]:
    batch: list[Document] = []
    size = 0
    for document in documents:
        batch.append(document.whole())
        size += len(batch[-1].text)
        if size > _BATCH:
            yield batch
            batch, size = [], 0
    if batch:
        yield batch


def _in_processes(
    batches: Iterable[list[Document]], language: str, rule: str, jobs: int
) -> Iterator[tuple[list[Document], Guesses]]:
    # a forked process starts at once; where forking is not safe it is started anew
    context = multiprocessing.get_context("fork" if sys.platform == "linux" else "spawn")
    waiting: deque[Future[tuple[list[Document], Guesses]]] = deque()
    try:
        with ProcessPoolExecutor(jobs, mp_context=context) as pool:
            for batch in batches:
                waiting.append(pool.submit(tagged, batch, language, rule))
                if len(waiting) > _AHEAD * jobs:
                    yield waiting.popleft().result()
            while waiting:
                yield waiting.popleft().result()
    except BrokenProcessPool as error:
        raise MillstoneError(
            "a tagging process was ended from outside", "the memory may be full: try again with --jobs 1"
        ) from error
