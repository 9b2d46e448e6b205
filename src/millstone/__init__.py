"""millstone: frequency lists, keyness, weighted log odds and dictionary categories for several sub-corpora."""

from millstone.core.base.version import VERSION

__version__ = VERSION


def __getattr__(name: str) -> object:
    """The function of a command; what computes is imported when one is asked for."""
    if not name.startswith("_"):
        # the version alone needs no list of commands
        from millstone.analyses import COMMANDS

        if name in COMMANDS:
            # all that computes
            from millstone.library.functions import function

            return function(name)
    raise AttributeError(f"module 'millstone' has no attribute {name!r}")


def __dir__() -> list[str]:
    # asked for in notebooks only
    from millstone.analyses import COMMANDS

    return sorted([*globals(), *COMMANDS])
