"""Names of files and sheets made from names of groups."""

import re
from collections.abc import Sequence

_NOT_IN_FILES = re.compile(r"[\\/:*?\"<>|\x00-\x1f]")
_RESERVED = re.compile(r"(?i)(con|prn|aux|nul|com\d|lpt\d)(\..*)?$")
_LONGEST_FILE = 100
# a name has 255 bytes at most, and what stands beside a table ends in more than it does
_MOST_BYTES = 200


def distinct_names(names: Sequence[str], forbidden: re.Pattern[str], longest: int) -> list[str]:
    """Safe names in the order of `names`, no two alike in any case.

    Examples
    --------
    >>> distinct_names(["a/b", "Hut", "hut"], re.compile("/"), 31)
    ['a_b', 'Hut', 'hut_2']
    """
    found: list[str] = []
    taken: set[str] = set()
    for name in names:
        plain = forbidden.sub("_", name).strip(" .")[:longest] or "_"
        chosen, number = plain, 1
        while chosen.casefold() in taken:
            number += 1
            chosen = f"{plain[: longest - len(str(number)) - 1]}_{number}"
        taken.add(chosen.casefold())
        found.append(chosen)
    return found


def file_names(names: Sequence[str]) -> list[str]:
    """Names of files that every system allows, without their endings."""
    plain = [f"_{name}" if _RESERVED.match(name) or name.startswith("~$") else name for name in names]
    cut = [name.encode("utf-8", "replace")[:_MOST_BYTES].decode("utf-8", "ignore") for name in plain]
    return distinct_names(cut, _NOT_IN_FILES, _LONGEST_FILE)
