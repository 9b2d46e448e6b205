"""The settings of the commands that do not analyse texts."""

from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import (
    output_path,
    positive,
    switch,
    words,
)


@frozen
class CacheSettings:
    """Settings of ``cache``."""

    clear: bool = setting(switch(), False, "delete all cached scans")
    limit: float = setting(
        positive("GB"), 2.0, "keep at most so many gigabytes, from now on; the scans used least recently go first"
    )


@frozen
class WordsSettings:
    """Settings of ``words``."""

    for_: tuple[str, ...] = setting(
        words("WORD"), (), "lemmas: the forms that count as this lemma, or the lemma that this form counts as"
    )
    output: str = setting(
        output_path("FILE.txt"), "", "write the words, one per line, as a list of your own to be edited", letter="-o"
    )


@frozen
class RunSettings:
    """Settings of ``run``."""

    step: tuple[str, ...] = setting(
        words("NAME"), (), "carry out this step only: its name, number or command; several with commas"
    )
    dry_run: bool = setting(switch(), False, "say what would be done and written, and do nothing")
    report: bool = setting(
        switch(), True, "write the report of the study, report.html in its output folder", off="write no report"
    )
    trust: bool = setting(
        switch(),
        False,
        "let the study read and write what it names outside its own folder; typed once, it is remembered",
    )
    bundle: str = setting(
        output_path("FILE.zip"),
        "",
        "pack the study, its lists, results and report, described as RO-Crate, into one file",
    )
    with_inputs: bool = setting(switch(), False, "--bundle: pack the texts as well, not only their checksums")
