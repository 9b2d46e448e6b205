"""Findings: what looks wrong with texts, and the option that would fix it."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from millstone.analyses.check.inspector import LEAST_RECURRING, Inspector
from millstone.analyses.check.overview import overview
from millstone.core.base.arrays import unique
from millstone.core.base.wording import NAMED, listed, numbered
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.group_names import groups_alike
from millstone.core.matrix.totals import column_sums
from millstone.core.tables.table import Table
from millstone.core.terms.word_lists import WordLists, is_in_capitals
from millstone.core.tokenise.words import fold_case

_TIMES_LARGER = 10
# so many times the even share of a text, and so much more of its group
_TIMES_EVEN, _MORE_THAN_EVEN = 2, 0.2
_LONG_TOKEN = 30


@dataclass(frozen=True)
class Finding:
    """Something that looks wrong, and the option that would fix it."""

    what: str
    remedy: str


def findings(corpus: Corpus, inspector: Inspector, function_words: Mapping[str, str] | None = None) -> list[Finding]:
    """Find what looks wrong, each with the option that would fix it, the gravest first.

    `function_words` holds word -> what takes it for one; then the scan must be ordered.
    """
    table = overview(corpus, inspector)
    of_groups = [*_of_sizes(corpus, table), *_of_names(corpus), *_of_repeats(inspector, table)]
    of_words = [*_of_words(corpus), *_of_capitals(corpus, function_words or {})]
    return [*_of_characters(inspector), *of_groups, *_of_texts(inspector), *of_words]


def _of_characters(inspector: Inspector) -> list[Finding]:
    found = []
    lost, misread = inspector.seen["lost"], inspector.seen["misread"]
    if lost.times:
        found.append(
            Finding(
                f"{numbered(lost.times, 'character')} lost (U+FFFD) {lost.where()}",
                "the texts were once saved in a wrong encoding: get fresh copies from their source",
            )
        )
    if misread.times >= 3:
        found.append(
            Finding(
                f"{numbered(misread.times, 'pair')} of characters such as Ã© {misread.where()}",
                "UTF-8 was read as another encoding: leave --encoding out, or get fresh copies of the texts",
            )
        )
    return found


def _of_sizes(corpus: Corpus, table: Table) -> list[Finding]:
    found = []
    filled = list(table.at(table["tokens"] > 0).rows())
    if not filled:
        found.append(Finding("there is no text to count", "check the files, and name the text column with --text"))
    if len(filled) > 1:
        large, small = (most(filled, key=lambda row: row["tokens"]) for most in (max, min))
        if large["tokens"] >= _TIMES_LARGER * small["tokens"]:
            found.append(
                Finding(
                    f"{large['group']} has {large['tokens'] / small['tokens']:,.0f} times the tokens of "
                    f"{small['group']}",
                    "rates allow for size, and intervals show how little is known of the small one; or choose "
                    "documents with --where",
                )
            )
    for row in filled:
        share, even = row["longest"] / row["tokens"], 1 / max(row["documents"] - row["empty"], 1)
        if share >= _TIMES_EVEN * even and share >= even + _MORE_THAN_EVEN:
            name = row["longest_document"]
            found.append(
                Finding(
                    f"{name} has {100 * share:.0f} % of the tokens of {row['group']}, where an even share is "
                    f"{100 * even:.0f} %",
                    f"leave it out with --where 'document != {name}', or heed the notes in the results",
                )
            )
    lengths = corpus.tokens[corpus.tokens > 0]
    if len(lengths) >= 20 and np.median(lengths) <= 1 and len(corpus.forms) > 0.8 * len(lengths):
        found.append(
            Finding(
                "most documents are one word, nearly every one different: the text column looks like an id",
                "name the column of the texts with --text",
            )
        )
    return found


def _of_names(corpus: Corpus) -> list[Finding]:
    return [
        Finding(
            f"the groups {listed(map(repr, alike.names), between=' and ')} differ only in {alike.in_what}",
            f"make them one: {alike.remedy}",
        )
        for alike in groups_alike(corpus.groups)
    ]


def _of_repeats(inspector: Inspector, table: Table) -> list[Finding]:
    found = []
    empty, repeated = int(table["empty"].sum()), inspector.repeats.in_group.total()
    if empty:
        found.append(Finding(f"{numbered(empty, 'document')} without words", "leave them out with --min-tokens 1"))
    if repeated:
        found.append(
            Finding(
                f"{numbered(repeated, 'document')} with the text of another in the same group, such as "
                f"document {inspector.repeats.example}",
                "leave them out with --drop-repeats",
            )
        )
    if inspector.repeats.across:
        found.append(
            Finding(
                f"{numbered(inspector.repeats.across, 'document')} with a text that another group has too",
                "check that no document was put into two groups",
            )
        )
    recurring = inspector.recurring()
    if recurring:
        line, number = recurring[0]
        least = min(number for _, number in recurring)
        found.append(
            Finding(
                f"{numbered(len(recurring), 'line')} that recur, such as {line[:60]!r} {number:,} times",
                f"leave running lines out with --drop-running {least}",
            )
        )
    return found


def _of_texts(inspector: Inspector) -> list[Finding]:
    kinds = {
        "markup": ("piece of markup", "pieces of markup", "--cut markup"),
        "links": ("link", "links", "--cut links"),
        "entities": ("undecoded entity", "undecoded entities", "--mend entities"),
        "hyphens": ("word broken at a line end", "words broken at line ends", "--mend hyphens"),
    }
    found = []
    for kind, (one, many, option) in kinds.items():
        seen = inspector.seen[kind]
        if seen.times:
            found.append(Finding(f"{seen.times:,} {one if seen.times == 1 else many} {seen.where()}", option))
    numbered_lines = inspector.seen["numbered"]
    if numbered_lines.documents:
        found.append(
            Finding(
                f"nearly every line begins or ends with a number {numbered_lines.where()}",
                r"if these are line numbers: --cut 'pattern:(?m)^\s*\d+\s|\s\d+\s*$'",
            )
        )
    return found


def _of_capitals(corpus: Corpus, function_words: Mapping[str, str]) -> list[Finding]:
    """Abbreviations that would pass for function words: US, IT, WHO."""
    number = times_in_capitals(corpus) if function_words else {}
    found = [form for form, times in number.items() if times >= LEAST_RECURRING and form.lower() in function_words]
    found.sort(key=lambda form: (-number[form], form))
    shown = [
        Finding(
            f"{form!r} is in capitals {number[form]:,} times within sentences that are not, and "
            f"{function_words[form.lower()]} takes it for {form.lower()!r}",
            f"if it is a name, keep it apart: --spare {form}",
        )
        for form in found[:NAMED]
    ]
    if len(found) > NAMED:
        rest = ",".join(found[NAMED:])
        shown.append(Finding(f"{len(found) - NAMED} more are so: {listed(found[NAMED:])}", f"--spare {rest}"))
    return shown


def times_in_capitals(corpus: Corpus) -> dict[str, int]:
    """How often each form in capitals throughout occurs in a sentence of which no more than half is in capitals.

    Forms of two letters or more; the scan must be ordered.
    """
    ids, starts, breaks = corpus.sequence
    capital = np.array([is_in_capitals(form) for form in corpus.forms], dtype=bool)
    if not capital.any() or not len(ids):
        return {}
    begins = unique(np.concatenate((starts, breaks)))
    begins = begins[begins < len(ids)]
    # only tokens in capitals are looked at: there are few
    places = np.flatnonzero(capital[ids])
    sentence = np.searchsorted(begins, places, side="right") - 1
    lengths = np.diff(np.append(begins, len(ids)))
    mixed = 2 * np.bincount(sentence, minlength=len(begins)) <= lengths
    counted = np.bincount(ids[places[mixed[sentence]]], minlength=len(corpus.forms))
    found: dict[str, int] = {}
    for place in np.flatnonzero(counted).tolist():
        # annotated forms may stand several times
        found[corpus.forms[place]] = found.get(corpus.forms[place], 0) + int(counted[place])
    return found


def odd_lemmas(corpus: Corpus, lists: WordLists, lemmas: Sequence[str]) -> list[Finding]:
    """Forms whose lemma shares fewer than half of its letters with them, and is not known to be so.

    `lemmas` is (F,), what each form of the corpus counts as.
    """
    irregular = {form for one in lists.lemmas for form in one.irregular}
    totals = column_sums(corpus.form_counts)
    number: Counter[tuple[str, str]] = Counter()
    for form, lemma, times in zip(corpus.forms, lemmas, totals.tolist(), strict=True):
        word = fold_case(form)
        if fold_case(lemma) != word and word not in irregular:
            shared = (Counter(word) & Counter(fold_case(lemma))).total()
            if 2 * shared < len(lemma):
                number[word, lemma] += times
    if not number:
        return []
    shown = [f"{word} as {lemma} ({times:,} times)" for (word, lemma), times in number.most_common()]
    return [
        Finding(
            f"{numbered(len(shown), 'form')} counted under a lemma that looks little like it: {listed(shown)}",
            "look at them with --explain; your own table form,lemma takes precedence: --lemmas mine.csv,LANG",
        )
    ]


def _of_words(corpus: Corpus) -> list[Finding]:
    totals = column_sums(corpus.form_counts)
    long = [n for n, form in enumerate(corpus.forms) if len(form) > _LONG_TOKEN and "-" not in form]
    if not long:
        return []
    number = int(totals[long].sum())
    return [
        Finding(
            f"{numbered(number, 'token')} of over {_LONG_TOKEN} letters, as if words had run together, such as "
            f"{corpus.forms[long[0]][:60]!r}",
            f"look at where they come from; leave them out with --length ..{_LONG_TOKEN}",
        )
    ]
