"""The texts of a step with what its dictionary counts in them: as a page, or to be shown."""

from itertools import compress
from pathlib import Path

from millstone.core.corpus.cleaning import Cleaned
from millstone.core.dictionary.marked_text import MarkedTexts, marked_texts
from millstone.core.dictionary.matches import find_matches
from millstone.core.scan.scan import Progress, scan
from millstone.report.marked import as_page
from millstone.results.writing import Outputs
from millstone.sources.provenance import Provenance
from millstone.study.outputs import HERE
from millstone.study.record.settings_line import shown_inputs
from millstone.study.step import Step
from millstone.study.texts.dictionary_input import dictionary_of
from millstone.study.texts.machine import processors
from millstone.study.texts.scans import documents_of


def mark(step: Step, outputs: Outputs, progress: Progress) -> MarkedTexts | None:
    """The marked texts that are to be shown; those for a file are added to the outputs as a page."""
    if not step.settings.marked:
        return None
    marked = _marked(step, progress)
    if step.settings.marked == HERE:
        return marked
    title = f"{', '.join(Path(one).name for one in step.settings.dictionary)}: what it counts"
    about = f"{' '.join(shown_inputs(step))}. A word that is counted carries the letter of its category."
    outputs.add(Path(step.settings.marked), as_page(marked, title, about))
    return None


def _marked(step: Step, progress: Progress) -> MarkedTexts:
    """The texts, read again, with what the step's dictionary counts in them."""
    documents = [one.whole() for one in documents_of(step, Provenance(), Cleaned())]
    corpus = scan(documents, True, progress, step.preparation.tokens, jobs=processors(step.work))
    long_enough = corpus.tokens >= step.preparation.min_tokens
    dictionary = dictionary_of(step)
    names = tuple(dictionary.traced_categories)
    matches = find_matches(corpus.keep(long_enough), dictionary)
    return MarkedTexts(marked_texts(matches, names, list(compress(documents, long_enough.tolist()))), names)
