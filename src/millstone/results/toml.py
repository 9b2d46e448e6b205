"""What is written in TOML: text from data as a string or in a comment, and key terms as a dictionary."""

import json
import unicodedata
from collections.abc import Mapping, Sequence

_NO_ENTRY = ("*", "?", "!")


def toml_string(text: str) -> str:
    """A text as a basic string of TOML, whatever signs it has.

    Examples
    --------
    >>> print(toml_string('a"b' + chr(10) + "[[step]]"))
    "a\\"b\\n[[step]]"
    """
    # the escapes of JSON are among those of TOML, which escapes one sign more; half a surrogate pair is replaced
    whole = text.encode("utf-8", "replace").decode("utf-8")
    return json.dumps(whole, ensure_ascii=False).replace("\x7f", "\\u007f")


def toml_comment(text: str) -> str:
    """A text that may stand in a comment, on one line."""
    whole = text.encode("utf-8", "replace").decode("utf-8")
    return "".join(" " if unicodedata.category(sign) in ("Cc", "Zl", "Zp") else sign for sign in whole)


def as_dictionary(terms: Mapping[str, Sequence[str]], title: str) -> tuple[bytes, int]:
    """A dictionary in TOML, and how many terms cannot be entries, since they hold signs that mean something there.

    Parameters
    ----------
    terms : mapping
        Category -> its entries.
    title : str
    """
    lines = [f"title = {toml_string(title)}", "", "[categories]"]
    passed_over = 0
    for category, entries in terms.items():
        plain = [one for one in entries if not (one.startswith("!") or any(sign in one for sign in _NO_ENTRY[:2]))]
        passed_over += len(entries) - len(plain)
        lines += [f"{toml_string(category)} = [", *(f"    {toml_string(one)}," for one in plain), "]"]
    return "\n".join([*lines, ""]).encode("utf-8"), passed_over
