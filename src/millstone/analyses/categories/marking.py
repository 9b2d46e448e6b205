"""The texts of a step with what its dictionary counts in them: as a page, or to be shown."""

from itertools import compress
from pathlib import Path
from typing import Any

import numpy as np

from millstone.analyses.base.analysis import texts_of
from millstone.analyses.base.matches.dictionary_input import counts_punctuation, dictionary_of
from millstone.analyses.base.settings_line import shown_inputs
from millstone.analyses.base.step import Step
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.dictionary.marked_text import MarkedTexts, marked_texts
from millstone.core.dictionary.matches import find_matches
from millstone.core.scan.scan import Progress, scan
from millstone.core.settings.output import HERE
from millstone.outputs.files.writing import Outputs
from millstone.outputs.pages.marked import as_page
from millstone.texts.documents import documents_of
from millstone.texts.duplicates import near_duplicates_of
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.machine import processors


def marked_texts_of(step: Step[Any], outputs: Outputs, progress: Progress) -> MarkedTexts | None:
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


def _marked(step: Step[Any], progress: Progress) -> MarkedTexts:
    """The texts, read again, with what the step's dictionary counts in them."""
    documents = [one.whole() for one in documents_of(texts_of(step), Provenance(), Cleaned())]
    counted = counts_punctuation(step)
    corpus = scan(documents, True, progress, step.preparation.tokens, counted, jobs=processors(step.work))
    kept = corpus.tokens >= step.preparation.min_tokens
    if step.preparation.drop_near_duplicates:
        kept[np.flatnonzero(kept)] = near_duplicates_of(corpus.keep(kept), step.preparation).kept
    dictionary = dictionary_of(step)
    names = tuple(dictionary.traced_categories)
    matches = find_matches(corpus.keep(kept), dictionary)
    return MarkedTexts(marked_texts(matches, names, list(compress(documents, kept.tolist()))), names)
