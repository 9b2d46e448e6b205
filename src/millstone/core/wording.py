"""Small pieces of wording that messages, screens and figures share."""


def numbered(number: int, noun: str, plural: str = "") -> str:
    """``1 row``, ``2,000 rows``; `plural` where it is not made with s."""
    return f"{number:,} {noun if number == 1 else plural or noun + 's'}"


def one_of(plural: str, number: int) -> str:
    """The noun for so many things: ``links`` of two links, ``link`` of one."""
    singular = {"entities": "entity", "markup": "piece of markup", "hyphens": "broken word"}
    many = {"markup": "pieces of markup", "hyphens": "broken words"}
    if plural.startswith("pattern:"):
        return f"{'match' if number == 1 else 'matches'} of {plural.removeprefix('pattern:')}"
    return singular.get(plural, plural.removesuffix("s")) if number == 1 else many.get(plural, plural)
