"""The analyses a study is made of: what each answers, its settings, and how to try it.

Light on purpose: the help is made from this.
"""

from dataclasses import dataclass

from millstone.charts.settings import (
    ChartSettings,
    ContrastChartSettings,
    FrequencyChartSettings,
    KeynessChartSettings,
    LogOddsChartSettings,
    ProfileChartSettings,
)
from millstone.core.settings.analyses import (
    CategorySettings,
    ContrastSettings,
    FrequencySettings,
    KeynessSettings,
    LogOddsSettings,
    MatrixSettings,
    ProfileSettings,
)
from millstone.core.settings.declare import declared
from millstone.core.settings.preparation import Preparation, Work
from millstone.core.settings.program import CheckSettings
from millstone.results.settings import Output
from millstone.sources.settings import Counted, Inputs, Reading


@dataclass(frozen=True)
class Command:
    """One analysis.

    Attributes
    ----------
    question : str
        What it answers, a line for the help.
    settings : type
        Its own settings.
    charts : type or None
        The settings of its figure.
    ordered : bool
        It needs the order of the words, not only their counts.
    about : str
        How to read the result.
    examples : tuple
        Arguments that run as they stand in the folder of the demo.
    chooses_rows : bool
        Its table is long enough to be sorted and shortened.
    of_terms : bool
        It works on counts of terms, whether they come from texts or from frequency lists.
    of_plain_words : bool
        It never sees marks of punctuation.
    """

    name: str
    question: str
    settings: type
    charts: type | None
    ordered: bool
    about: str
    examples: tuple[str, ...]
    chooses_rows: bool = True
    of_terms: bool = False
    of_plain_words: bool = False

    def parts(self) -> tuple[type, ...]:
        """All dataclasses that hold settings of this command, its own first."""
        shared = (Inputs, Reading, *((Counted,) if self.of_terms else ()), Preparation, Output, Work)
        return (self.settings, *((self.charts,) if self.charts else ()), *shared)

    def names(self) -> tuple[str, ...]:
        """The names of all its settings."""
        return tuple(name for part in self.parts() for name in declared(part))


COMMANDS = {
    command.name: command
    for command in (
        Command(
            "freq",
            "frequency lists, one per group",
            FrequencySettings,
            FrequencyChartSettings,
            False,
            "Ranks are among the kept terms; equal frequencies share a rank. Rates are per million of all word\n"
            "tokens of the group, left-out ones too, so a stop list never changes a rate. dp says how evenly a\n"
            "term is spread over the documents: 0 evenly, near 1 all in few of them (Gries 2008).",
            (
                "freq guestbook.csv --text entry --group hut --stop en",
                "freq journals --stop en --length 4.. --top 10",
                "freq guestbook.csv --text entry --group hut --ngram 2..3 --stop en --bridge --min-log-dice 10",
                "freq guestbook.csv --text entry --min-freq 5 -o words.xlsx --chart words.png",
            ),
            of_terms=True,
        ),
        Command(
            "profile",
            "how large, how varied, how repetitive is each group?",
            ProfileSettings,
            ProfileChartSettings,
            True,
            "tokens are all words, kept_tokens those that no rule left out; all the rest is computed on these, in\n"
            "the order of the text. ttr falls as texts get longer, so compare groups of different size by msttr,\n"
            "mattr or mtld. A measure is empty where there are too few tokens for it.",
            (
                "profile guestbook.csv --text entry --group hut",
                "profile journals --lemmas en --window 200",
                "profile journals --per-document --segment 500 -o journals.csv --chart journals.png",
            ),
            of_plain_words=True,
        ),
        Command(
            "matrix",
            "the documents x terms table, for other programs",
            MatrixSettings,
            None,
            False,
            "A row a document, its group and metadata first, then a column a term. As .mtx only what is not 0 is\n"
            "written, with the names of rows and columns in two files beside it; .csv, .tsv, .xlsx and .parquet\n"
            "have every cell. relative is of all word tokens of the row, left-out ones too.",
            (
                "matrix journals --stop en --min-docs 3 -o journals.csv",
                "matrix guestbook.csv --text entry --group hut -o guestbook.mtx",
                "matrix guestbook.csv --text entry --group hut --by group --transpose --min-freq 50",
            ),
            chooses_rows=False,
        ),
        Command(
            "keyness",
            "which terms set groups apart",
            KeynessSettings,
            KeynessChartSettings,
            False,
            "log_ratio is the size of a difference: 1 means twice as frequent in the target, -1 half as frequent;\n"
            "ll and p_adjusted say how sure it is, if tokens were independent; the note warns where they are not.\n"
            "higher_in names the side where a term is relatively more frequent.",
            (
                "keyness guestbook.csv --text entry --group hut --min-freq 5",
                "keyness journals --against pairs --stop en --chart keyness.svg",
                "keyness early=journals/Ostrel/2016.txt late=journals/Ostrel/2019.txt --top 10",
            ),
            of_terms=True,
        ),
        Command(
            "logodds",
            "weighted log odds of terms, per group",
            LogOddsSettings,
            LogOddsChartSettings,
            False,
            "log_odds is above 0 for what the group uses more; z, the log odds by their standard error, orders the\n"
            "terms. z is no test: the pooled prior is made of the same texts (Monroe, Colaresi & Quinn 2008).",
            (
                "logodds guestbook.csv --text entry --group hut --stop en",
                "logodds guestbook.csv --text entry --group season --against winter --top 8",
                "logodds journals --prior uniform --chart logodds.png --panels group",
            ),
            of_terms=True,
        ),
        Command(
            "categories",
            "dictionary categories, per document",
            CategorySettings,
            ChartSettings,
            False,
            "A place is a match of an entry; the longest match counts, and a place counts once in a category.\n"
            "matched_percent is the share of tokens that any category covers. Stop lists and the other word rules\n"
            "never apply to a dictionary.",
            (
                "categories guestbook.csv --text entry --id entry_id --group hut --dictionary dictionary.toml",
                "categories journals --dictionary dictionary.toml --scale per_thousand -o journals.csv",
                "categories guestbook.csv --text entry --group hut --dictionary dictionary.toml --chart huts.png",
                "categories journals --dictionary dictionary.toml --select weather --marked weather.html",
            ),
            of_plain_words=True,
        ),
        Command(
            "contrast",
            "by how much do groups differ in a value of their documents?",
            ContrastSettings,
            ContrastChartSettings,
            False,
            "Each document is one observation. difference is that of the means, with its interval; hedges_g is the\n"
            "same in standard deviations; cliffs_delta says how much oftener a document of group a exceeds one of b\n"
            "than the reverse. p is of Welch's test, p_rank of Mann and Whitney's, both also adjusted for all rows.",
            (
                "contrast guestbook.csv --text entry --group hut --dictionary dictionary.toml --select weather,fear",
                "contrast guestbook.csv --text entry --group hut --values tokens,mean_word_length --against Ostrel",
                "contrast journals --dictionary dictionary.toml --unit parts:10 --trend trend.csv --chart trend.png "
                "--chart-kind development",
            ),
            of_plain_words=True,
        ),
    )
}

CHECK = Command(
    "check",
    "what is in these texts, and what looks wrong with them?",
    CheckSettings,
    None,
    False,
    "Nothing is analysed. Each group's documents and tokens are counted, and what often goes wrong is looked\n"
    "for; each finding comes with the option that would mend it. The same options as for an analysis can be\n"
    "tried here first.",
    (
        "check guestbook.csv --text entry --group hut",
        "check guestbook.csv --text entry --where 'hut = Ostrel' --show 2",
        "check guestbook.csv --text entry --lemmas en --stop en --explain her",
    ),
    chooses_rows=False,
)
