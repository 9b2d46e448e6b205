"""Findings: what looks wrong with texts, and the option that would fix it."""

import shlex
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from millstone.analyses.base.guards.delimiter import unit_option
from millstone.analyses.base.guards.running import LEAST_RECURRING
from millstone.analyses.check.inspector import Inspector
from millstone.core.base.arrays import unique
from millstone.core.base.wording import NAMED, listed, numbered
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.group_names import groups_alike
from millstone.core.corpus.near_duplicates import NearDuplicates
from millstone.core.matrix.totals import column_sums
from millstone.core.settings.declare import option
from millstone.core.tables.table import Table
from millstone.core.terms.word_lists import WordLists, is_in_capitals
from millstone.core.tokenise.words import fold_case

_TIMES_LARGER = 10
# so many times the even share of a text, and so much more of its group
_TIMES_EVEN, _MORE_THAN_EVEN = 2, 0.2
_LONG_TOKEN = 30
_PARTED = 3
_MUCH_REMOVED = 0.1


@dataclass(frozen=True)
class Finding:
    """Something that looks wrong, and the option that would fix it.

    Attributes
    ----------
    what, remedy : str
    tokens : int
        How many tokens it touches, about.
    setting : tuple of str
        The setting and its value where it can be applied without a further look.
    """

    what: str
    remedy: str
    tokens: int = 0
    setting: tuple[str, str] | None = None


def findings(
    corpus: Corpus,
    inspector: Inspector,
    table: Table,
    duplicates: NearDuplicates | None,
    names_encoding: bool,
    function_words: Mapping[str, str] | None = None,
) -> list[Finding]:
    """Find what looks wrong, each with the option that would fix it, what touches the most tokens first.

    `table` is the overview of the groups; `function_words` holds word -> what takes it for one, and then the scan
    must be ordered; `names_encoding` is whether the encoding of the texts was typed.
    """
    of_groups = [*_of_sizes(corpus, table), *_of_names(corpus), *_of_repeats(inspector, table)]
    of_words = [*_of_words(corpus), *_of_capitals(corpus, function_words or {})]
    of_texts = [*_of_near_duplicates(corpus, inspector, duplicates), *_of_lines(corpus, inspector)]
    found = [*_of_characters(inspector, names_encoding), *of_groups, *of_texts, *_of_texts(inspector), *of_words]
    return sorted(found, key=lambda one: -one.tokens)


def to_apply(found: Sequence[Finding]) -> str:
    """The options that apply all that can be applied without a further look, to be pasted; "" for nothing."""
    values: dict[str, list[str]] = {}
    for one in found:
        if one.setting is not None:
            values.setdefault(one.setting[0], []).append(one.setting[1])
    return " ".join(
        f"{option(name)} {shlex.quote(','.join(own))}".strip() if any(own) else option(name)
        for name, own in values.items()
    )


def _of_characters(inspector: Inspector, names_encoding: bool) -> list[Finding]:
    found = []
    lost, misread = inspector.seen["lost"], inspector.seen["misread"]
    if lost.times:
        found.append(
            Finding(
                f"{numbered(lost.times, 'character')} lost (U+FFFD) {lost.where()}",
                "the texts were once saved in a wrong encoding: get fresh copies from their source",
                lost.times,
            )
        )
    if misread.times >= 3:
        found.append(
            Finding(
                f"{numbered(misread.times, 'pair')} of characters such as Ã© {misread.where()}",
                "UTF-8 was read as another encoding: "
                + ("leave --encoding out" if names_encoding else "get fresh copies of the texts"),
                misread.times,
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
                    int(small["tokens"]),
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
                    int(row["longest"]),
                )
            )
    lengths = corpus.tokens[corpus.tokens > 0]
    if len(lengths) >= 20 and np.median(lengths) <= 1 and len(corpus.forms) > 0.8 * len(lengths):
        found.append(
            Finding(
                "most documents are one word, nearly every one different: the text column looks like an id",
                "name the column of the texts with --text",
                int(lengths.sum()),
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
        found.append(
            Finding(
                f"{numbered(empty, 'document')} without words",
                "leave them out with --min-tokens 1",
                setting=("min_tokens", "1") if int(table["tokens"].sum()) else None,
            )
        )
    if repeated:
        found.append(
            Finding(
                f"{numbered(repeated, 'document')} with the text of another in the same group, such as "
                f"document {inspector.repeats.example}",
                "leave them out with --drop-repeats",
                inspector.repeated_tokens,
                ("drop_repeats", ""),
            )
        )
    if inspector.repeats.across:
        found.append(
            Finding(
                f"{numbered(inspector.repeats.across, 'document')} with a text that another group has too",
                "check that no document was put into two groups",
            )
        )
    return found


def _of_near_duplicates(corpus: Corpus, inspector: Inspector, duplicates: NearDuplicates | None) -> list[Finding]:
    """Documents that are nearly the text of another, those left aside that are the very text of one."""
    if duplicates is None:
        return []
    found = []
    number = int((~duplicates.kept).sum())
    if number > inspector.repeats.in_group.total():
        example = corpus.documents["document"][np.flatnonzero(~duplicates.kept)[0]]
        removed, tokens = int(corpus.tokens[~duplicates.kept].sum()), int(corpus.tokens.sum())
        much = _much(removed, tokens)
        found.append(
            Finding(
                f"{numbered(number, 'document')} nearly the text of another in the same group, such as document "
                f"{example}",
                f"see which with --duplicates; leave them out with --drop-near-duplicates{much}",
                removed,
                None if much else ("drop_near_duplicates", ""),
            )
        )
    if duplicates.across > inspector.repeats.across + 1:
        found.append(
            Finding(
                f"{numbered(duplicates.across, 'document')} nearly the text of one in another group",
                "check that no document was put into two groups",
            )
        )
    return found


def _much(removed: int, tokens: int) -> str:
    """The warning for what takes more than a tenth of the tokens away; "" for less."""
    if removed <= _MUCH_REMOVED * tokens:
        return ""
    return f", which would remove {removed:,} of {tokens:,} tokens: look at them first"


def _of_lines(corpus: Corpus, inspector: Inspector) -> list[Finding]:
    """Lines that recur, and what parts a single text."""
    found = []
    recurring = inspector.running.found()
    if recurring:
        least = min(one.pages for one in recurring)
        removed, tokens = sum(one.tokens for one in recurring), int(corpus.tokens.sum())
        first = recurring[0]
        much = _much(removed, tokens)
        found.append(
            Finding(
                f"{numbered(len(recurring), 'line')} that recur, such as {first.line[:60]!r} {first.pages:,} times",
                f"leave running lines out with --drop-running {least}{much}",
                removed,
                None if much else ("drop_running", str(least)),
            )
        )
    sign, times = inspector.delimiters.likeliest()
    if sign and len(corpus.documents) == 1:
        found.append(
            Finding(
                f"one text, in which {sign.strip()!r} stands {numbered(times, 'time')}",
                f"make its pieces documents: {unit_option(sign)}",
                int(corpus.tokens.sum()),
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
    for kind, (one, many, typed) in kinds.items():
        seen = inspector.seen[kind]
        if seen.times:
            what = f"{seen.times:,} {one if seen.times == 1 else many} {seen.where()}"
            name, _, value = typed.removeprefix("--").partition(" ")
            found.append(Finding(what, typed, seen.times, (name, value)))
    parted, unparted = inspector.seen["parted"], inspector.seen["unparted"]
    if parted.times >= _PARTED and parted.times > unparted.times:
        found.append(
            Finding(
                f"{parted.times:,} commas with a space before them {parted.where()}, as if tokens were parted",
                "take them as they are: --tokens spaces",
                parted.times,
            )
        )
    numbered_lines = inspector.seen["numbered"]
    if numbered_lines.documents:
        found.append(
            Finding(
                f"nearly every line begins or ends with a number {numbered_lines.where()}",
                r"if these are line numbers: --cut 'pattern:(?m)^\s*\d+\s|\s\d+\s*$'",
                numbered_lines.times,
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
            number[form],
        )
        for form in found[:NAMED]
    ]
    if len(found) > NAMED:
        rest = ",".join(found[NAMED:])
        times = sum(number[form] for form in found[NAMED:])
        shown.append(Finding(f"{len(found) - NAMED} more are so: {listed(found[NAMED:])}", f"--spare {rest}", times))
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
            number.total(),
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
            number,
        )
    ]
