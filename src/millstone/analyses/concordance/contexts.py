"""The texts of places: the documents that hold them, read again, and the places cut out of them."""

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np

from millstone.analyses.base.analysis import texts_of
from millstone.analyses.base.step import Step
from millstone.analyses.concordance.joined_texts import JoinedTexts, can_be_joined, joined
from millstone.analyses.concordance.lines import PARAGRAPH, SENTENCE, Lines, cut_out
from millstone.core.base.arrays import begins
from millstone.core.base.errors import DataError
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.corpus.corpus import Corpus, Document
from millstone.core.corpus.corpus_units import cut_corpus
from millstone.core.matches.matches import Matches
from millstone.core.matches.token_offsets import token_spans, with_single_blanks
from millstone.core.scan.scan import scan
from millstone.texts.documents import raw_documents_of
from millstone.texts.inputs.provenance import Provenance

if TYPE_CHECKING:
    pass


# so many characters are cut up together
_BATCH = 1 << 20


class _Whole(NamedTuple):
    """A document, its rows in the corpus, and the document as it was read.

    The rows are those from `first` to before `after`; white space in `document` may be folded.
    """

    document: Document
    first: int
    after: int
    as_read: Document


def cut_lines(step: Step[Any], corpus: Corpus, lines: Lines, contexts: Sequence[str]) -> list[np.ndarray]:
    """Left, found and right of each line, (L, 3) str objects for each of the `contexts`; texts are read once.

    Raises
    ------
    DataError
        When a text is another one than it was when it was scanned.
    """
    found = [np.empty((len(lines), 3), dtype=object) for _ in contexts]
    by_document = np.argsort(lines.document, kind="stable")
    rows = lines.document[by_document]
    # folded once, rather than for each line: tokens stay the same
    has_single_blanks = not {SENTENCE, PARAGRAPH} & set(contexts)
    for batch in _batches(_again(step, corpus, rows[begins(rows)]), has_single_blanks):
        texts = joined([whole.document for whole in batch], step.preparation.tokens)
        ends = [[np.searchsorted(rows, row) for row in (whole.first, whole.after)] for whole in batch]
        here = by_document[np.concatenate([np.arange(*pair) for pair in ends])]
        of_text = np.repeat(np.arange(len(batch)), [after - first for first, after in ends])
        shift = _shift(step, corpus, batch, texts, lines.document[here], of_text)
        places = Matches(lines.places.start[here] + shift, lines.places.length[here])
        is_folded = has_single_blanks and batch[0].document.annotated is None
        for context, cells in zip(contexts, found, strict=True):
            first, after = (bound + shift for bound in _bounds(corpus, lines.at(here), context))
            if len(beyond := np.flatnonzero(after > texts.first_token[of_text + 1])):
                source = batch[of_text[beyond[0]]].document.source
                raise DataError(f"{source} is not the text that was counted", "run the command again with --no-cache")
            cells[here] = cut_out(texts, of_text, places, context, (first, after), is_folded)
    return found


def _batches(read: Iterator[_Whole], has_single_blanks: bool) -> Iterator[list[_Whole]]:
    """Documents that can be cut up together, with their texts in one."""
    batch: list[_Whole] = []
    size = 0
    for one in read:
        document = one.document.whole()
        is_fit = can_be_joined(document)
        if has_single_blanks and document.annotated is None:
            document = replace(document, text=with_single_blanks(document.text))
        if batch and (not is_fit or size > _BATCH):
            yield batch
            batch, size = [], 0
        batch.append(one._replace(document=document))
        size += len(document.text) if is_fit else _BATCH + 1
    if batch:
        yield batch


def _shift(
    step: Step[Any], corpus: Corpus, batch: Sequence[_Whole], texts: JoinedTexts, row: np.ndarray, of_text: np.ndarray
) -> np.ndarray:
    """How far the tokens of each line's document are, in the texts of a batch, from where they are in the corpus."""
    first = np.array([whole.first for whole in batch])
    offsets = [_offsets(step, corpus, whole) for whole in batch]
    before = np.cumsum([0, *map(len, offsets)])[:-1]
    own = np.concatenate(offsets)[before[of_text] + row - first[of_text]]
    found: np.ndarray = texts.first_token[of_text] + own - corpus.sequence[1][row]
    return found


def _bounds(corpus: Corpus, lines: Lines, context: str) -> tuple[np.ndarray, np.ndarray]:
    """(L,) the first token of the sentence or the document of each line in the corpus, and the one after its last."""
    _, starts, breaks = corpus.sequence
    if context != SENTENCE:
        return starts[lines.document], starts[lines.document + 1]
    at = np.searchsorted(breaks, lines.places.start, side="right")
    return breaks[at - 1], breaks[at]


def _again(step: Step[Any], corpus: Corpus, wanted: np.ndarray) -> Iterator[_Whole]:
    """The documents that have one of the `wanted` rows, with their texts."""
    if not len(wanted):
        return
    own = corpus.documents["document"].tolist()
    whole = corpus.documents["part_of"].tolist() if "part_of" in corpus.documents else own
    whole = [one or other for one, other in zip(whole, own, strict=True)]
    names = whole if step.reading.unit.by_tokens else own
    rows_of = defaultdict[str, list[range]](list)
    for rows in _of_one_text(step, corpus, names):
        rows_of[names[rows.start]].append(rows)
    left = set(wanted.tolist())
    for document in raw_documents_of(texts_of(step), Provenance(), Cleaned(), {whole[row] for row in left}):
        waiting = rows_of.get(document.name)
        if not waiting or not _is_counted(step, document):
            continue
        if not _has_length(step, corpus, waiting[0], document):
            # a near-duplicate of the same name, which was left out
            continue
        rows = waiting.pop(0)
        if not left.isdisjoint(rows):
            yield _Whole(document, rows.start, rows.stop, document)
            left.difference_update(rows)
        if not left:
            return


def _of_one_text(step: Step[Any], corpus: Corpus, names: list[str]) -> Iterator[range]:
    """The rows of each text: one, or those of its parts."""
    row = 0
    while row < len(names):
        after = row + 1
        while step.reading.unit.by_tokens and after < len(names) and _goes_on(corpus, names, after):
            after += 1
        yield range(row, after)
        row = after


def _goes_on(corpus: Corpus, names: list[str], row: int) -> bool:
    part = corpus.documents["part"]
    return names[row] == names[row - 1] and int(part[row]) > int(part[row - 1])


def _is_counted(step: Step[Any], document: Document) -> bool:
    """Whether a document was not left out as too short."""
    least, unit = step.preparation.min_tokens, step.reading.unit
    if not least:
        return True
    if unit.by_tokens and not unit.size:
        # it is the pieces that are measured
        return bool((_cut(step, document).tokens >= least).any())
    return len(token_spans(document.whole(), step.preparation.tokens)) >= least


def _has_length(step: Step[Any], corpus: Corpus, rows: range, document: Document) -> bool:
    """Whether a document has the tokens of a row, where one of the same name may have been left out."""
    if not step.preparation.drop_near_duplicates or step.reading.unit.by_tokens:
        return True
    tokens = token_spans(document.whole(), step.preparation.tokens)
    return len(tokens) == int(corpus.tokens[rows.start])


def _cut(step: Step[Any], document: Document) -> Corpus:
    """A document scanned alone and cut as the unit says."""
    unit = step.reading.unit
    return cut_corpus(scan([document], True, rule=step.preparation.tokens), unit.kind, unit.size)


def _offsets(step: Step[Any], corpus: Corpus, whole: _Whole) -> list[int]:
    """Of each row of a document, which of its tokens is the first."""
    if not step.reading.unit.by_tokens:
        return [0]
    # blank lines end sentences
    starts = _cut(step, whole.as_read).sequence[1]
    parts = corpus.documents["part"][whole.first : whole.after].tolist()
    return [int(starts[max(int(part) - 1, 0)]) for part in parts]
