"""The process around the program: ``millstone`` and ``python -m millstone``."""

import sys

import millstone


def run() -> None:
    """Run what was typed; for the version nothing need be imported."""
    if sys.argv[1:] == ["--version"]:
        print(f"millstone {millstone.__version__}")
        return
    from millstone.cli.main import main

    sys.exit(main())


if __name__ == "__main__":
    run()
