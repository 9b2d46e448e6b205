"""How a setting is declared: once, as a field of a frozen dataclass.

The field's name, without the ``_`` at the end of one that Python reserves, is the study key and, with ``-``
for ``_``, the option; its kind reads what is typed and checks what a study file holds; its help text is the
only one there is.
"""

from collections.abc import Mapping, Sequence
from dataclasses import MISSING, Field, field, fields
from typing import Any

from millstone.core.settings.kind import Kind


def setting(
    kind: Kind,
    default: Any,
    explained: str,
    letter: str = "",
    rare: bool = False,
    off: str = "",
    formerly: str = "",
) -> Any:
    """Declare one setting as a dataclass field; a `rare` one is explained by the whole help only.

    `off` says what a switch that is on by default does when it is switched off; `formerly` is the name that the
    setting had in the version before, which is understood and not shown.
    """
    said = {"kind": kind, "help": explained, "letter": letter, "rare": rare, "off": off, "formerly": formerly}
    return field(default=default, metadata=said)


def declared(settings: type) -> Mapping[str, Field[Any]]:
    """The settings of a dataclass by name.

    Parameters
    ----------
    settings : type
        A dataclass of settings, or one made of it.

    Returns
    -------
    Mapping[str, Field[Any]]
    """
    return {one.name.rstrip("_"): one for one in fields(settings) if "kind" in one.metadata}


def present_names(settings: Sequence[type], values: Mapping[str, Any]) -> dict[str, Any]:
    """Values by the names that their settings have now, where some are called as in the version before.

    Parameters
    ----------
    settings : sequence of type
        The dataclasses that declare the settings.
    values : mapping
        Name -> value.

    Returns
    -------
    dict
    """
    now = {
        one.metadata["formerly"]: name
        for part in settings
        for name, one in declared(part).items()
        if one.metadata["formerly"]
    }
    return {now.get(name, name): value for name, value in values.items()}


def option(name: str) -> str:
    """How a setting is typed on the command line."""
    return "--" + name.replace("_", "-")


def build(settings: type, values: Mapping[str, Any]) -> Any:
    """Fill `settings` with those of `values` that are its own.

    Parameters
    ----------
    settings : type
        A dataclass of settings, or one made of it.
    values : mapping of str to Any
        Name -> value, also of other settings.

    Returns
    -------
    Any
    """
    return settings(**{one.name: values[name] for name, one in declared(settings).items() if name in values})


def changed(settings: Any) -> dict[str, Any]:
    """Those settings whose value is not the default."""
    found = {}
    for name, one in declared(type(settings)).items():
        value = getattr(settings, one.name)
        if one.default is MISSING or value != one.default:
            found[name] = value
    return found


def written(kind: Kind, value: Any) -> str:
    """A value as it would be typed."""
    if kind.shown is not None:
        return kind.shown(value)
    if kind.switch:
        return "yes" if value else "no"
    if isinstance(value, tuple) and not kind.repeatable:
        if all(isinstance(one, str) for one in value):
            return ",".join(value)
        low, high = value
        return str(low) if low == high else f"{low or ''}..{'' if high is None else high}"
    return f"{value:g}" if isinstance(value, float) else str(value)
