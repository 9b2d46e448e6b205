"""The parsers of all commands, and the question that each answers.

Light on purpose: what is typed wrong is said, and help is given, before what computes is imported.
"""

from collections.abc import Callable, Mapping, Sequence

from millstone.analyses import COMMANDS, STEPS, command_for
from millstone.analyses.base.command import Command
from millstone.cli.options import (
    Once,
    Parser,
    add_common,
    add_inputs,
    add_one_input,
    add_settings,
    add_study,
    new_parser,
    rare_ones,
)
from millstone.core.settings.declare import declared
from millstone.core.settings.output import Output
from millstone.core.settings.preparation import Work
from millstone.core.settings.program import CacheSettings, RunSettings, WordsSettings
from millstone.outputs.charts.settings import AnyChartSettings

_DEMO = "write the sample corpus and run the example study on it"
_DEMO_EXAMPLES = ("demo", "demo huts")
_INIT = "write a commented study file for a folder or a table"
_INIT_EXAMPLES = ("init guestbook.csv -o my_study.toml", "init journals -o journals.toml")
_RUN = "carry out every step of a study file, in order"
_RUN_EXAMPLES = (
    "run study.toml",
    "run study.toml --dry-run",
    "run study.toml --step keyness --step logodds",
    "run study.toml --bundle study.zip --with-inputs",
)
_CHART = "draw a result table saved earlier, without computing it again"
_CHART_EXAMPLES = (
    "chart results/keyness.csv",
    "chart results/logodds.csv --panels term --chart-top 9 --chart results/terms.svg",
)
_WORDS = "print what ships: stop lists, their classes, forms of a lemma"
_WORDS_EXAMPLES = (
    "words",
    "words stop de",
    "words en:pronouns -o pronouns.txt",
    "words lemmas en --for go,went",
)
_CACHE = "list and clear cached scans"
_CACHE_EXAMPLES = ("cache", "cache --clear", "cache --limit 8")


def parser_of(command: Command, full: bool) -> Parser:
    """The parser of an analysis: its own options first, then the shared ones."""
    noun = "INPUT" if command.reads_texts else "SHEET"
    what = f"{command.of.name if command.of else 'COMMAND'} {noun}..." if command.varies else f"{noun}..."
    parser = new_parser(command.name, f"{command.question}\n\n{command.about}", command.examples, what)
    add_inputs(
        parser, *(() if command.reads_texts else (noun, "what another command has saved: a table, or a folder"))
    )
    # those of a command that it carries out come after its own
    own_part = COMMANDS[command.name].settings if command.of else command.settings
    own = list(declared(own_part))
    also = [name for part in (own_part, command.charts) if part for name in rare_ones(part)]
    add_settings(parser, command.settings, full, f"{command.name} options", only=own, also=also)
    if command.of:
        further = [name for name in declared(command.settings) if name not in own]
        add_settings(
            parser, command.settings, full, f"{command.of.name} options", only=further, also=(), brief=not full
        )
    if command.charts:
        add_settings(parser, command.charts, full, "chart", also=())
    for settings in command.reading_parts()[1:]:
        add_settings(parser, settings, full)
    chosen = ("output", "force", "legend", *(() if command.looks_only else ("say",)), "quiet")
    add_settings(parser, Output, full, only=() if command.chooses_rows else chosen)
    if command.reads_texts:
        add_settings(parser, Work, full)
        add_study(parser, full)
    add_common(parser, full)
    return parser


def _demo(full: bool) -> Parser:
    """The parser of demo."""
    about = (
        f"{_DEMO}\n\nThe corpus: the guest books and wardens' journals of three huts on one ridge, all\n"
        "made up. FOLDER is created if necessary (default: millstone-demo)."
    )
    return _of_one_input("demo", about, _DEMO_EXAMPLES, ("[FOLDER]", "the folder to write to"), full)


def _init(full: bool) -> Parser:
    """The parser of init."""
    about = (
        f"{_INIT}\n\nLooks at the texts, guesses the columns of text, id and groups and the language of the\n"
        "stop list, and writes a study that runs as it stands. An existing file is never overwritten."
    )
    made = new_parser("init", about, _INIT_EXAMPLES, "PATH")
    add_one_input(made, "PATH", "the folder or the table")
    group = made.add_argument_group("output")
    group.add_argument(
        "-o", "--output", action=Once, metavar="FILE", help="the study file to write (default: study.toml)"
    )
    group.add_argument("--quiet", action="store_true", help="say nothing when it is written")
    add_common(made, full)
    return made


def _of_one_input(
    name: str,
    about: str,
    examples: Sequence[str],
    what: tuple[str, str],
    full: bool,
    own: tuple[type, str] | None = None,
    shown: str = "",
    on_cluster: bool = False,
) -> Parser:
    """The parser of a command of one input: its name and explanation in `what`, its own settings with their title.

    `shown` is how the input is typed where that takes more words.
    """
    metavar, explained = what
    made = new_parser(name, about, examples, shown or metavar)
    add_one_input(made, metavar, explained)
    if own:
        add_settings(made, own[0], True, own[1])
    add_settings(made, Output, True, only=("force", "quiet"))
    if on_cluster:
        add_settings(made, Work, True, "work", only=("cluster",))
    add_common(made, full)
    return made


def _run(full: bool) -> Parser:
    """The parser of run."""
    about = f"{_RUN}\n\nPaths in the file are taken from its own folder, outputs from its output folder."
    own = RunSettings, "run options"
    return _of_one_input("run", about, _RUN_EXAMPLES, ("STUDY", "the study file"), full, own, on_cluster=True)


def _chart(full: bool) -> Parser:
    """The parser of chart."""
    drawn = [name for name, command in COMMANDS.items() if command.charts]
    about = (
        f"{_CHART}\n\nTABLE was saved by {', '.join(drawn[:-1])} or {drawn[-1]},\n"
        "in any format but .md and .html. Its companion gives the order and the sizes of the groups.\n"
        "Without --chart the figure is TABLE.png beside the table."
    )
    own = AnyChartSettings, "chart"
    return _of_one_input("chart", about, _CHART_EXAMPLES, ("TABLE", "the saved table"), full, own)


def _words(full: bool) -> Parser:
    """The parser of words."""
    about = (
        f"{_WORDS}\n\nWithout anything after it, what there is; then the words of a list, one per line, with their\n"
        "class: stop CODE, CODE:CLASS, lemmas CODE, or the NAME of a list of your own (NAME.txt in your folder\n"
        "of lists, which --stop NAME finds)."
    )
    shown = "[stop CODE | CODE:CLASS | lemmas CODE | NAME]"
    return _of_one_input(
        "words", about, _WORDS_EXAMPLES, ("LIST", "the list"), full, (WordsSettings, "words options"), shown
    )


def _cache(full: bool) -> Parser:
    """The parser of cache."""
    made = new_parser(
        "cache",
        f"{_CACHE}\n\nTexts that took over a second to read are cached as counts of words in a folder of your\n"
        "own, and read from there as long as the files and the settings that matter are the same. Words can\n"
        "be restored from the cache, so clear it where texts must not stay on the machine, or type --no-cache.",
        _CACHE_EXAMPLES,
        "",
    )
    add_settings(made, CacheSettings, True, "cache options")
    add_common(made, full)
    return made


HEADINGS = ("begin", "count", "compare", "read", "relate", "keep")
"""The parts of the work, in their order; every command belongs to one of them."""
FIRST = ("demo", "check", "freq", "keyness", "concordance")
"""The commands to begin with."""
_OTHERS: Mapping[str, tuple[str, str, Callable[[bool], Parser]]] = {
    "demo": ("begin", _DEMO, _demo),
    "init": ("begin", _INIT, _init),
    "run": ("keep", _RUN, _run),
    "chart": ("keep", _CHART, _chart),
    "words": ("begin", _WORDS, _words),
    "cache": ("keep", _CACHE, _cache),
}
ORDER = ("demo", "init", "check", "words", "run", *COMMANDS, "chart", "cache")
"""All commands, in the order in which the guides list them."""


def parser_named(name: str, full: bool, of: str = "") -> Parser:
    """The parser of a command, or of what it makes `of` another one; a `full` one explains every option."""
    return parser_of(command_for(name, of), full) if name in STEPS else _OTHERS[name][2](full)


def questions() -> dict[str, str]:
    """Command -> the question it answers."""
    return {name: STEPS[name].question if name in STEPS else _OTHERS[name][1] for name in ORDER}


def by_heading() -> dict[str, list[str]]:
    """Part of the work -> its commands."""
    of = {name: STEPS[name].heading if name in STEPS else _OTHERS[name][0] for name in ORDER}
    return {heading: [name for name in ORDER if of[name] == heading] for heading in HEADINGS}
