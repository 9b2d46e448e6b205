"""Lines, collocates, dispersion, networks and trees in words."""

from collections import Counter
from collections.abc import Iterator, Mapping
from typing import Any

from millstone.core.base.wording import listed, numbered
from millstone.core.tables.result import Result
from millstone.study.record.in_words.sentence import (
    ALPHA,
    MOST,
    Item,
    Key,
    Number,
    Sentence,
    is_known,
    left_over,
    lists_of,
    opening,
    plain,
    sentence,
    several,
)


def concordance(result: Result) -> Iterator[Sentence]:
    """How many places there are, in how many documents, and in which groups."""
    table = result.table
    if "document" not in table or "found" not in table:
        return
    of_group = Counter(map(str, table["group"].tolist()))
    documents = len(set(zip(table["group"].tolist(), table["document"].tolist(), strict=True)))
    most = [f"{group} {number:,}" for group, number in of_group.most_common(MOST)]
    said = f": {listed(most)}" if len(of_group) > 1 else ""
    yield sentence(f"{numbered(len(table), 'line')} of {numbered(documents, 'document')}{said}.")


def collocates(result: Result) -> Iterator[Sentence]:
    """The first collocates of each node, in the order of the table."""
    order = next((name for name in result.schema.ordered_by if name in result.table), "")
    for names, rows in lists_of(result):
        items: list[Item] = []
        for row in rows[:MOST]:
            measure = f", {order} {plain(row[order])}" if order and is_known(row[order]) else ""
            together = Number(f"{row['together']:,}", (*names, str(row["collocate"]), str(row["side"])))
            items.append([f"{row['collocate']} (", together, f" times{measure})"])
        yield opening(
            f"Near {names[-1] if names else 'it'}, the first of {numbered(len(rows), 'collocate')}: ",
            *several(items),
            ".",
        )
    yield from left_over(result)


def dispersion(result: Result) -> Iterator[Sentence]:
    """How evenly the first terms of each group are spread."""
    for names, rows in lists_of(result):
        items: list[Item] = [
            [
                f"{row['term']} in ",
                Number(f"{row['docs']:,}", (*names, str(row["term"]))),
                f" of the documents, dp {plain(row['dp'])}",
            ]
            for row in rows[:MOST]
            if is_known(row["dp"])
        ]
        if items:
            where = f" in {names[-1]}" if names else ""
            yield opening(f"Spread{where} (dp 0: evenly, 1: in few documents): ", *several(items), ".")
    yield from left_over(result)


def network(result: Result) -> Iterator[Sentence]:
    """The strongest links."""
    if "term_a" not in result.table:
        return
    for names, rows in lists_of(result):
        highest = sorted((row for row in rows if is_known(row["association"])), key=lambda row: -row["association"])[
            :MOST
        ]
        items: list[Item] = [
            [
                f"{row['term_a']} and {row['term_b']} (",
                Number(plain(row["association"]), (*names, str(row["term_a"]), str(row["term_b"]))),
                f", together {row['together']:,})",
            ]
            for row in highest
        ]
        if items:
            yield opening(f"{numbered(len(rows), 'link')}; the strongest: ", *several(items), ".")
    yield from left_over(result)


def alike(result: Result) -> Iterator[Sentence]:
    """The terms most like each node."""
    for names, rows in lists_of(result):
        items: list[Item] = [
            [f"{row['term']} (", Number(plain(row["similarity"]), (*names, str(row["term"]))), ")"]
            for row in rows[:MOST]
        ]
        yield opening(
            f"Used most like {names[-1] if names else 'it'} (similarity of contexts, 1 at most): ",
            *several(items),
            ".",
        )
    yield from left_over(result)


def difference(result: Result) -> Iterator[Sentence]:
    """The words that are used differently in two groups, and by what contexts one sees it."""
    for names, rows in lists_of(result):
        passed = [row for row in rows if row["p_adjusted"] < ALPHA]
        yield opening(
            f"{result.block_name(names)}: {len(passed):,} of {numbered(len(rows), 'word')} "
            f"{'is' if len(passed) == 1 else 'are'} used differently (p adjusted below {ALPHA}, over sampling units)."
        )
        for row in passed[:MOST]:
            key = (*names, str(row["node"]))
            yield sentence(
                f"{row['node']}: difference ",
                Number(f"{row['difference']:.2f}", key),
                f", {row['chance']:.2f} by chance; {names[0]} {row['contexts_target'] or 'nothing'} | "
                f"{names[1]} {row['contexts_reference'] or 'nothing'}.",
            )
    yield from left_over(result)


def wordtree(result: Result) -> Iterator[Sentence]:
    """The commonest branches nearest to each node."""
    for _, rows in lists_of(result):
        for node in dict.fromkeys(str(row["node"]) for row in rows):
            # what is in brackets is no word: ends of sentences, and what is not shown
            words = [row for row in rows if row["node"] == node and not str(row["branch"]).startswith("(")]
            items: list[Item] = []
            for row in [row for row in words if row["level"] == 1][:MOST]:
                items.append([f"{row['branch']} (", Number(f"{row['places']:,}", _branch(row)), ")"])
            if items:
                yield opening(f"Beside {node} most often: ", *several(items), ".")


def _branch(row: Mapping[str, Any]) -> Key:
    return tuple(str(row[name]) for name in ("group", "node", "side", "level", "branch"))


def matrix(result: Result) -> Iterator[Sentence]:
    """The size of the table."""
    yield sentence(f"A table of {numbered(len(result.table), 'row')}.")
