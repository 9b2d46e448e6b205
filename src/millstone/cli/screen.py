"""A result on the screen: aligned tables, the columns that matter first, the first rows of each block."""

from collections.abc import Sequence

import pandas as pd
from rich import box
from rich.console import Console
from rich.table import Table
from rich.text import Text

from millstone.cli.two_sides import is_one_comparison, show_sides
from millstone.core.columns import Column
from millstone.core.result import Result
from millstone.core.wording import numbered
from millstone.results.rows import blocks_of

ROWS = 20

SHOWN = {
    "freq": (
        *("rank", "term", "n", "freq", "per_million", "docs", "docs_percent", "dp"),
        *("mi", "t_score", "log_dice", "forms"),
    ),
    "keyness": (
        *("rank", "term", "n", "higher_in", "log_ratio", "log_ratio_low", "log_ratio_high"),
        *("freq_target", "freq_reference", "ll", "g2", "chi2", "p_adjusted"),
        *(
            "bic",
            "ell",
            "percent_diff",
            "relative_risk",
            "odds_ratio",
            "diff_coefficient",
            "odds_share",
            "p",
            "fisher",
        ),
        *("shared_low", "shared_high", "per_million_background"),
        *("resample_low", "resample_high", "rank_low", "rank_high", "note"),
    ),
    "check": (
        "group",
        "documents",
        "tokens",
        "shortest",
        "median",
        "longest",
        "longest_document",
        "empty",
        "repeated",
    ),
    "contrast": (
        *("value", "mean_a", "mean_b", "difference", "ci_low", "ci_high"),
        *("hedges_g", "cliffs_delta", "p_adjusted", "p_rank_adjusted", "higher_in", "note"),
    ),
    "logodds": ("rank", "term", "n", "log_odds", "std_error", "z", "freq", "freq_against", "note"),
}
# what goes first where the screen is narrow
_MAY_GO = (
    *("repeated_documents", "guiraud_r", "kept_tokens", "hapaxes", "yule_k", "msttr", "mean_word_length"),
    *("hapax_percent", "ttr"),
    *("longest_document", "repeated", "empty", "shortest"),
    *(
        "t_score",
        "cliffs_delta",
        "p_rank_adjusted",
        "per_million",
        "docs_percent",
        "std_error",
        "p_adjusted",
        "log_ratio_low",
        "log_ratio_high",
        "ll",
        "docs",
    ),
)
# columns of free length, and how narrow they may become
_ELASTIC = {"note": 12, "forms": 24}


def show(result: Result, top: int, console: Console, wanted: Sequence[str] = ()) -> list[str]:
    """Print a result, block by block, and return the columns that found no place; only those `wanted`, if any."""
    blocks = blocks_of(result.frame, result.command)
    limit = top or ROWS
    if result.frame.empty:
        console.print("no rows")
        return []
    if not wanted and is_one_comparison(result) and show_sides(result, limit, console):
        return []
    parts = [("", result.frame)] if not blocks else result.frame.groupby(blocks, sort=False)
    shown = set(blocks)
    for names, rows in parts:
        columns = list(wanted) or _columns(result, rows.head(limit), console.width)
        shown.update(columns)
        _show_block(_heading(blocks, names, result) if blocks else "", rows, columns, result, limit, console)
    if wanted or result.matrix is not None:
        return []
    return [str(name) for name in result.frame.columns if name not in shown]


def how_to_save(result: Result) -> str:
    """How all rows of a table come into a file."""
    return f"-o FILE.csv{' without --top' if 'top' in result.settings else ''} saves all"


def legend(result: Result) -> list[str]:
    """What each column of a result means, a line a column."""
    lines = ["columns:"]
    for name, column in result.columns.items():
        unit = f" ({column.unit})" if column.unit and column.unit not in column.meaning else ""
        lines.append(f"  {name}: {column.meaning}{unit}")
    return lines


def _heading(blocks: list[str], names: Sequence[str], result: Result) -> str:
    sizes = {size.name: size for size in result.groups}

    def sized(name: str) -> str:
        if name in sizes:
            return f"{name} ({sizes[name].number}, {numbered(sizes[name].tokens, 'token')})"
        return f"{name} (all other groups)"

    joint = {"keyness": " compared with ", "logodds": " against ", "contrast": " compared with "}.get(
        result.command, ""
    )
    return joint.join(sized(name) for name in names[: len(blocks)])


def _show_block(
    heading: str, rows: pd.DataFrame, columns: list[str], result: Result, limit: int, console: Console
) -> None:
    table = Table(
        box=box.SIMPLE_HEAD,
        show_edge=False,
        pad_edge=False,
        padding=(0, 1, 0, 0),
        header_style="dim",
    )
    for name in columns:
        column = result.columns.get(name)
        is_number = column.datatype != "string" if column else pd.api.types.is_numeric_dtype(rows[name])
        table.add_column(
            Text(_title(name, column, rows)),
            justify="right" if is_number else "left",
            overflow="fold" if name == "note" else "ellipsis",
            no_wrap=name != "note",
            max_width=console.width - _width([one for one in columns if one != name], rows.head(limit), result)
            if name == "forms"
            else None,
        )
    for row in rows.head(limit)[columns].itertuples(index=False, name=None):
        table.add_row(
            *(Text(_cell(value, result.columns.get(name))) for name, value in zip(columns, row, strict=True))
        )
    if heading:
        console.print(Text(heading, style="bold"))
    console.print(table)
    more = len(rows) - limit
    if more > 0:
        console.print(f"  ... {numbered(more, 'more row')}; --top N shows N rows, {how_to_save(result)}")
    console.print()


def _columns(result: Result, rows: pd.DataFrame, width: int) -> list[str]:
    drop = list(_MAY_GO)
    if result.command == "freq" and "group" not in rows.columns:
        names = list(rows.columns)
        drop = [name for kind in ("docs_", "rank_", "per_million_") for name in names if name.startswith(kind)]
    elif result.command == "matrix":
        names = list(rows.columns)
    elif result.command in SHOWN:
        names = [name for name in SHOWN[result.command] if name in rows.columns]
    else:
        names = _document_columns(result)
    while _width(names, rows, result) > width and drop:
        candidate = drop.pop(0)
        names = [name for name in names if name != candidate]
    while result.command in ("categories", "matrix") and _width(names, rows, result) > width and len(names) > 5:
        names.pop()
    return names


def _document_columns(result: Result) -> list[str]:
    """The fixed columns and the categories; metadata stay in the file."""
    return [name for name in result.frame.columns if name in result.columns]


def _width(names: list[str], rows: pd.DataFrame, result: Result) -> int:
    total = 0
    for name in names:
        column = result.columns.get(name)
        cells = [_cell(value, column) for value in rows[name]]
        longest = max([*map(len, cells), len(_title(name, column, rows))], default=0)
        total += min(longest, _ELASTIC.get(name, longest)) + 2
    return total


def _title(name: str, column: Column | None, rows: pd.DataFrame) -> str:
    if name in ("freq_target", "freq_reference"):
        return f"in {rows[name.removeprefix('freq_')].iloc[0]}"
    if name in ("mean_a", "mean_b"):
        return f"mean {rows['group' + name[-2:]].iloc[0]}"
    if name == "freq_against":
        return f"in {rows['against'].iloc[0]}"
    if name == "freq" and "against" in rows.columns:
        return f"in {rows['group'].iloc[0]}"
    return column.title if column else name


def _cell(value: object, column: Column | None) -> str:
    if value is None or value is pd.NA or (isinstance(value, float) and pd.isna(value)):
        return ""
    if column is not None and column.unit == "probability" and isinstance(value, float):
        return "<0.0001" if value < 0.0001 else f"{value:.4f}"
    if value == 0:
        return "0"
    if isinstance(value, float) and column is not None and column.datatype == "number":
        return f"{value:,.{column.decimals}f}"
    return f"{value:,}" if isinstance(value, int) and not isinstance(value, bool) else str(value)
