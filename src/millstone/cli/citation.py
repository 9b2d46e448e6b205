"""How to cite the version at hand."""

import millstone


def citation() -> str:
    """Text and BibTeX."""
    version = millstone.__version__
    return "\n".join(
        [
            f"The millstone developers (2026). millstone (version {version}) [computer software].",
            "",
            "@software{millstone,",
            "  author  = {{The millstone developers}},",
            "  title   = {millstone},",
            f"  version = {{{version}}},",
            "  year    = {2026}",
            "}",
        ]
    )
