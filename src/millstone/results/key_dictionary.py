"""Key terms written as a dictionary, one category per group."""

from collections.abc import Mapping, Sequence

from millstone.results.toml import toml_string

_NO_ENTRY = ("*", "?", "!")


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
