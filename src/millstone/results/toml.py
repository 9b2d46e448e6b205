"""Text from data in a TOML file that is written: as a string, and as part of a comment."""

import json
import unicodedata


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
