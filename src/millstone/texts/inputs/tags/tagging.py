"""A stream of documents tagged, in several processes at once."""

import multiprocessing
import sys
from collections import deque
from collections.abc import Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import replace
from itertools import chain, islice

from millstone.core.base.errors import MillstoneError
from millstone.core.corpus.corpus import Document, Token
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tags.tagger import (
    LANGUAGES,
    Guesses,
    Sentence,
    sentences_of,
    tagged_sentences,
    tagger_name,
)

_BATCH = 4_000
_AHEAD = 3
_MOSTLY = 0.5

_Tagged = tuple[list[list[Token]], Guesses]


def with_tags(
    documents: Iterable[Document], language: str, rule: str, jobs: int, provenance: Provenance
) -> Iterator[Document]:
    """The documents in their order, raw ones with parts of speech and lemmas that are guessed.

    Parameters
    ----------
    documents : iterable of Document
        Annotated ones keep their own tags.
    language : str
        ``en``, ``de`` or ``nl``.
    rule : str
        The token rule: tokens and sentences are those of the untagged text.
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
    waiting: deque[tuple[Document, int]] = deque()
    batches = _batches(_sentences(documents, rule, waiting, guesses))
    first = list(islice(batches, 2))
    every = chain(first, batches)
    if jobs > 1 and len(first) > 1:
        done = _in_processes(every, language, jobs)
    else:
        done = (tagged_sentences(batch, language) for batch in every)
    ready: deque[list[Token]] = deque()
    for sentences, found in done:
        guesses.add(found)
        ready += sentences
        yield from _complete(waiting, ready)
    yield from _complete(waiting, ready)
    _note(guesses, language, provenance)


def _sentences(
    documents: Iterable[Document], rule: str, waiting: deque[tuple[Document, int]], guesses: Guesses
) -> Iterator[Sentence]:
    """The sentences of all documents; each document goes to `waiting` with the number of those to be tagged."""
    for document in documents:
        if document.annotated is not None:
            guesses.annotated += 1
            waiting.append((document, -1))
            continue
        whole = document.whole()
        sentences = list(sentences_of(whole, rule))
        waiting.append((whole, len(sentences)))
        yield from sentences


def _batches(sentences: Iterable[Sentence]) -> Iterator[list[Sentence]]:
    batch: list[Sentence] = []
    size = 0
    for sentence in sentences:
        batch.append(sentence)
        size += len(sentence)
        if size > _BATCH:
            yield batch
            batch, size = [], 0
    if batch:
        yield batch


def _complete(waiting: deque[tuple[Document, int]], ready: deque[list[Token]]) -> Iterator[Document]:
    """The documents whose sentences are all tagged."""
    while waiting and waiting[0][1] <= len(ready):
        document, number = waiting.popleft()
        if number < 0:
            yield document
            continue
        tokens: list[Token | None] = []
        for _ in range(number):
            tokens += ready.popleft()
            tokens.append(None)
        yield replace(document, annotated=tokens)


def _in_processes(batches: Iterable[list[Sentence]], language: str, jobs: int) -> Iterator[_Tagged]:
    # a forked process starts at once; where forking is not safe it is started anew
    context = multiprocessing.get_context("fork" if sys.platform == "linux" else "spawn")
    working: deque[Future[_Tagged]] = deque()
    try:
        with ProcessPoolExecutor(jobs, mp_context=context) as pool:
            for batch in batches:
                working.append(pool.submit(tagged_sentences, batch, language))
                if len(working) > _AHEAD * jobs:
                    yield working.popleft().result()
            while working:
                yield working.popleft().result()
    except BrokenProcessPool as error:
        raise MillstoneError(
            "a tagging process was ended from outside", "the memory may be full: try again with --jobs 1"
        ) from error


def _note(guesses: Guesses, language: str, provenance: Provenance) -> None:
    if guesses.words:
        provenance.note(f"parts of speech and lemmas are guessed: {tagger_name()}, {LANGUAGES[language]}")
    if guesses.unknown > _MOSTLY * guesses.words:
        share = f"{100 * guesses.unknown / guesses.words:.0f} % of the words"
        provenance.note(f"{share} are unknown to the tagger: are the texts in {LANGUAGES[language]}?")
    if guesses.annotated:
        provenance.note("texts that have tags keep their own; --tag is for raw text")
