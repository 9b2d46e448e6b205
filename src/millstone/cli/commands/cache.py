"""The command cache: the scans in the cache folder, and how to clear them."""

import time
from collections.abc import Mapping
from typing import Any

from millstone.cli.terminal.console import put, say
from millstone.core.base.wording import numbered
from millstone.core.settings.declare import build
from millstone.core.settings.program import CacheSettings
from millstone.texts.cache.scan_cache import cache_folder, cached_scans, clear, limit, set_limit


def run(typed: Mapping[str, Any]) -> None:
    """List or clear cached scans.

    Raises
    ------
    MillstoneError
    """
    settings = build(CacheSettings, typed)
    if "limit" in typed:
        set_limit(settings.limit)
    if settings.clear:
        say(f"cleared {_megabytes(clear())} from {cache_folder()}")
        return
    scans = cached_scans()
    put("used\tmegabytes\ttokens\tinputs")
    for one in scans:
        used = time.strftime("%Y-%m-%d %H:%M", time.localtime(one.used))
        read = f"{one.tokens}\t{one.inputs}" if one.inputs else "\tnot known: of an earlier version, or damaged"
        put(f"{used}\t{one.size / 1e6:.1f}\t{read}")
    kept = f"{_megabytes(sum(one.size for one in scans))} of at most {_megabytes(int(limit() * 1e9))}"
    say(f"{numbered(len(scans), 'cached scan')}, {kept}, in {cache_folder()}")


def _megabytes(size: int) -> str:
    return f"{size / 1e6:,.1f} MB"
