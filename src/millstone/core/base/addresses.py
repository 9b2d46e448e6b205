"""Addresses such as ``s3://bucket/folder``: known from paths, and refused where they hold what opens a door."""

import re

PROTOCOLS = ("s3", "gs", "az", "http", "https", "sftp", "ssh", "file", "memory")
"""The kinds of address that are read."""

CREDENTIALS = "the library for such addresses finds it in its own settings, or in variables of the environment"
"""Where a password or a key belongs."""

_ADDRESS = re.compile(r"[a-z][\w+.:-]+://", re.IGNORECASE | re.ASCII)
_PLAIN_HOST = re.compile(r"[\w.-]*", re.ASCII)
_OPENING = re.compile(
    r"(auth|authorization|pwd|pass|passwd|password|passphrase|token|key|keyid|sig|signature|secret|credentials?|session"
    r"|jwt|sas|cookie)$"
)


def is_address(name: str) -> bool:
    """Whether an input is an address rather than a path."""
    return _ADDRESS.match(name) is not None


def address_in(typed: str) -> str:
    """The address that an input names, with or without the name of a group before it; empty where it is a path."""
    if is_address(typed):
        return typed
    after = typed.partition("=")[2]
    return after if is_address(after) else ""


def protocol_of(address: str) -> str:
    """The protocol, before ``://``."""
    return address.partition("://")[0]


def holds_secret(address: str) -> bool:
    """Whether an address has a user, a password or a key in it, or may have: it must not be printed then.

    Before the host nothing is allowed. A password may hold any sign, so that an ``@`` anywhere counts where what
    stands before the first of ``/?#`` is not plainly a host. Of query, parameters and fragment the names decide.

    Examples
    --------
    >>> holds_secret("sftp://user:pa/ss@host/x"), holds_secret("s3://bucket/letters@home/1.txt")
    (True, False)
    """
    # most commands are given paths alone
    from urllib.parse import unquote

    rest = unquote(address.partition("://")[2])
    host = re.split(r"[/?#]", rest, maxsplit=1)[0]
    if "@" in rest and not _PLAIN_HOST.fullmatch(host):
        return True
    given = re.split(r"[?#;&]", rest)[1:]
    return any(_OPENING.search(_letters(one.partition("=")[0])) for one in given if "=" in one)


def _letters(name: str) -> str:
    return "".join(filter(str.isalpha, name.lower()))
