"""The settings of what is shown and written."""

from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import free_text, integer, names, output_path, switch, terms

HERE = "-"
"""The name of a file that is shown instead of written."""


@frozen
class Output:
    """Settings of output: what is shown, and where it goes."""

    output: str = setting(
        output_path("FILE|FOLDER/"),
        "",
        "save the whole table: .csv .tsv .xlsx .json .jsonl .md .html .parquet; into a folder one file per group",
        letter="-o",
    )
    match: tuple[str, ...] = setting(
        terms("GLOB"), (), "show and save only terms that match, such as '*stove*'; several with commas"
    )
    top: int = setting(integer("N"), 0, "show and save only the first N rows of each group or comparison")
    sort: str = setting(
        free_text("COLUMN[:asc|:desc]"),
        "",
        "order the rows by a column, numbers largest first, text from a to z (:asc, :desc: the way that is typed); "
        "lines by left, right, found, document, random or a field",
    )
    columns: tuple[str, ...] = setting(names("A,B"), (), "show and save only these columns, in this order")
    force: bool = setting(switch(), False, "overwrite files that millstone did not write or that were edited")
    legend: bool = setting(switch(), False, "explain the columns below a table on the screen")
    say: bool = setting(switch(), False, "say what was found in a few sentences, below the table")
    quiet: bool = setting(switch(), False, "no summary on standard error")
