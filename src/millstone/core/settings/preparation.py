"""The settings of preparation, which say what counts as a term, and of how the work is done."""

from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kind import Kind
from millstone.core.settings.kinds import (
    choice,
    choice_or_field,
    free_text,
    integer,
    memory_size,
    merges,
    names,
    paths,
    share,
    sides,
    sizes,
    span,
    switch,
    terms,
    texts,
    words_or_paths,
    words_or_regex,
)

GIVEN = "given"
"""The lemmas that annotated texts bring along, in place of a language or a list."""
CUTS = ("links", "mentions", "hashtags", "markup")

MENDS = ("entities", "hyphens")

MOST_WORDS = 12
MOST_SPAN = 1000


@frozen
class Preparation:
    """Settings of preparation, which say what counts as a term; the fields in the order in which the rules apply."""

    drop_repeats: bool = setting(switch(), False, "leave out documents whose text occurred before in the same group")
    drop_running: int = setting(
        integer("N", 2, or_zero=True),
        0,
        "leave out lines that recur N times or more, on different pages or in different documents, digits counted "
        "alike: running titles, boilerplate; in texts with pages only among the first and last three lines of a page",
    )
    cut: tuple[str, ...] = setting(
        words_or_regex("WHAT", CUTS, "pattern:", repeatable=True),
        (),
        "remove from the text: links, mentions, hashtags, markup, or pattern:REGEX; several with commas",
    )
    mend: tuple[str, ...] = setting(
        Kind("WHAT", choice(*MENDS).read, repeatable=True, split_at=","),
        (),
        "repair undecoded entities such as &amp; (entities), words broken at line ends (hyphens); several with "
        "commas",
    )
    tokens: str = setting(
        words_or_regex("RULE", ("words", "spaces", "characters"), "pattern:"),
        "words",
        "what a token is: words; spaces (whatever stands between white space); characters (for scripts without "
        "spaces); pattern:REGEX (each match; it never spans white space)",
    )
    tag: str = setting(
        choice("en", "de", "nl"),
        "",
        "guess the part of speech and the lemma of each word of raw text: en, de or nl; for --pos and --lemmas given",
    )
    min_tokens: int = setting(integer("N"), 0, "leave out documents shorter than N tokens")
    drop_near_duplicates: float = setting(
        share("X", or_none=True, alone="0.5"),
        0.0,
        "leave out documents nearly the text of another in the same group, one staying: those that share X of their "
        "runs of five words (alone: 0.5)",
    )
    keep: str = setting(
        choice_or_field("longest|newest:FIELD|oldest:FIELD", "longest", prefixes=("newest", "oldest")),
        "longest",
        "which of the near-duplicates stays",
        rare=True,
    )
    around: tuple[str, ...] = setting(
        texts("EXPRESSION"),
        (),
        "keep only words near an expression, such as 'stove*'; rates are of these; may be repeated",
    )
    around_span: tuple[int, int] = setting(
        sides("L,R", MOST_SPAN), (5, 5), "--around: how many words left and right of a place are near it"
    )
    punctuation: str = setting(
        choice("drop", "keep"), "drop", "keep: each mark of punctuation is a term, though never part of corpus sizes"
    )
    case: str = setting(choice("lower", "keep"), "lower", "count The and the as one term, or apart")
    phrases: tuple[str, ...] = setting(
        paths("FILE"), (), "a file with one expression of several words per line: each counts as one term"
    )
    pos: tuple[str, ...] = setting(
        names("TAGS"), (), "annotated texts: keep words with these part-of-speech tags: NOUN,VERB"
    )
    lemmas: tuple[str, ...] = setting(
        words_or_paths("LANG|FILE|given"),
        (),
        "count lemmas: of a language (en), of a table form,lemma, or as annotated (given); with commas the first "
        "that knows a word wins",
    )
    stem: str = setting(
        free_text("LANG"), "", "count Snowball stems of a language (en), each shown as the commonest word that has it"
    )
    merge: tuple[str, ...] = setting(
        merges("FILE"),
        (),
        "count several words as one: a table with the columns term and as, or typed: 'kin=son,wife;house=hut,cabin'",
    )
    numbers: str = setting(choice("keep", "drop"), "keep", "drop: leave out tokens without a letter")
    drop: tuple[str, ...] = setting(
        terms("GLOB"),
        (),
        "leave out words that match, * for any characters and ? for one letter or digit; several with commas",
    )
    stop: tuple[str, ...] = setting(
        words_or_paths("LIST"),
        (),
        "leave out the words of a stop list: of a language (en), a class of it (en:pronouns), or a file with one "
        "word per line; or the words typed here; several with commas",
    )
    length: tuple[int, int | None] = setting(
        span("MIN..MAX"), (0, None), "keep terms of so many characters: 4..12, 4.. or ..12"
    )
    only: tuple[str, ...] = setting(
        words_or_paths("LIST"), (), "count only these words: with commas, or a file with one word per line"
    )
    ngram: tuple[int, int] = setting(
        sizes("N|MIN..MAX", MOST_WORDS),
        (1, 1),
        "count n-grams of N kept words in a row within a sentence: 2, or 2..4 for a range of sizes",
    )
    bridge: bool = setting(switch(), False, "let n-grams reach over words that are left out")
    spare: tuple[str, ...] = setting(
        words_or_paths("WORDS|FILE"),
        (),
        "words that no rule leaves out or changes: no,not,never; one in capitals, such as US, in capitals only",
    )
    base: str = setting(
        choice("all", "kept"), "all", "rates are of all word tokens, or only of those that no rule left out"
    )


@frozen
class Sampling:
    """The units that were drawn independently when the texts were chosen."""

    sampling_unit: str = setting(
        free_text("FIELD"),
        "",
        "documents with the same value of FIELD count as one in tests: author",
    )


@frozen
class Work:
    """How the work is done; results do not depend on it."""

    jobs: int = setting(
        integer("N", most=1000),
        0,
        "count long texts in N processes at once (default: as many as there are processors)",
    )
    memory: int = setting(
        memory_size("SIZE"),
        0,
        "how much memory to be content with, such as 2G or 500M: counts of documents beyond it lie on disk meanwhile "
        "(default: half of what there is)",
    )
    cluster: str = setting(
        free_text("ADDRESS"),
        "",
        "let the workers of a cluster read and count the texts: the address of its scheduler, or local:N for N of "
        "them on this machine",
    )
    cache: bool = setting(
        switch(),
        True,
        "keep scans in the cache folder, and use those that are there",
        off="read all texts anew, and keep nothing in the cache folder",
    )
    strict: bool = setting(
        switch(),
        False,
        "take nothing on trust: known files by their content; check ends with status 1 on a finding",
    )
