"""How units were drawn for coding, as text of one line that nobody reads in passing."""

import base64
import json
import zlib
from collections.abc import Sequence
from typing import Any

from millstone.core.coding.sealed import Sealed, SealedUnit

_MOST_BYTES = 1 << 28


def packed(sealed: Sealed) -> str:
    """A draw as one line of text for the companion of its sheet."""
    content = {
        "unit": sealed.unit,
        "categories": sealed.categories,
        "entries": sealed.entries,
        "strata": sealed.strata,
        "units": {name: [one.group, one.stratum, one.tokens, one.hits] for name, one in sorted(sealed.units.items())},
    }
    bare = json.dumps(content, ensure_ascii=False, separators=(",", ":")).encode("utf-8", "surrogatepass")
    return base64.b85encode(zlib.compress(bare, 9)).decode("ascii")


def unpacked(text: str) -> Sealed:
    """The draw that `packed` made a line of.

    Raises
    ------
    ValueError
        For a line that was changed.
    """
    try:
        reader = zlib.decompressobj()
        bare = reader.decompress(base64.b85decode(text), _MOST_BYTES)
        if not reader.eof or reader.unused_data:
            raise ValueError("it was changed")
        content = json.loads(bare.decode("utf-8", "surrogatepass"))
        sealed = Sealed(
            str(content["unit"]),
            tuple(map(str, content["categories"])),
            tuple(tuple(map(str, entries)) for entries in content["entries"]),
            tuple((str(name), int(size), int(drawn)) for name, size, drawn in content["strata"]),
            {name: _unit(*values) for name, values in content["units"].items()},
        )
    except (ValueError, KeyError, TypeError, AttributeError, zlib.error, RecursionError) as error:
        raise ValueError("it was changed") from error
    if not all(_fits(one, sealed) for one in sealed.units.values()):
        raise ValueError("it was changed")
    return sealed


def _unit(group: Any, stratum: Any, tokens: Any, hits: Sequence[Any]) -> SealedUnit:
    entries = tuple(None if of_category is None else tuple(map(int, of_category)) for of_category in hits)
    return SealedUnit(str(group), int(stratum), int(tokens), entries)


def _fits(unit: SealedUnit, sealed: Sealed) -> bool:
    """Whether a unit is of the strata and the categories that there are."""
    return 0 <= unit.stratum < len(sealed.strata) and len(unit.hits) == len(sealed.categories) == len(sealed.entries)
