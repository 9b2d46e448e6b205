"""The process around the program: ``millstone`` and ``python -m millstone``."""

import sys

import millstone
from millstone.cli.surroundings import open_streams, until_it_runs


def run() -> None:
    """Run what was typed; for the version little need be imported."""
    until_it_runs()
    if sys.argv[1:] == ["--version"]:
        open_streams()
        try:
            print(f"millstone {millstone.__version__}", flush=True)
            return
        except OSError:
            # the program says what is wrong
            pass
    from millstone.cli.main import main

    sys.exit(main())


if __name__ == "__main__":
    run()
