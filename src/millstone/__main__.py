"""The process around the program: ``millstone`` and ``python -m millstone``."""

import sys


def run() -> None:
    from millstone.cli.main import main

    sys.exit(main())


if __name__ == "__main__":
    run()
