"""The process around the program: ``millstone`` and ``python -m millstone``."""

import sys

from millstone.cli.signals import open_streams, until_it_runs
from millstone.core.base.version import VERSION


def run() -> None:
    """Run what was typed."""
    until_it_runs()
    if sys.argv[1:] == ["--version"]:
        open_streams()
        try:
            print(f"millstone {VERSION}", flush=True)
            return
        except OSError:
            # the program says what is wrong
            pass
    # for the version little need be imported
    from millstone.cli.main import main

    sys.exit(main())


if __name__ == "__main__":
    run()
