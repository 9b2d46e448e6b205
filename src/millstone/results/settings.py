"""The settings of what is shown and written."""

from dataclasses import dataclass

from millstone.core.declare import free_text, path, setting, switch, whole


@dataclass(frozen=True)
class Output:
    """What is shown, and where it goes."""

    output: str = setting(path("FILE"), "", "save the whole table: .csv, .tsv or .json", letter="-o")
    top: int = setting(whole("N"), 0, "show and save only the first N rows of each group or comparison")
    sort: str = setting(
        free_text("COLUMN[:asc]"), "", "order the rows by a column, largest first (or smallest, with :asc)"
    )
    force: bool = setting(switch(), False, "overwrite files that millstone did not write or that were edited")
    quiet: bool = setting(switch(), False, "no summary on standard error")
