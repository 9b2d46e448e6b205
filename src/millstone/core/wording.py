"""Small pieces of wording that messages, screens and figures share."""


def numbered(number: int, noun: str) -> str:
    """``1 row``, ``2,000 rows``."""
    return f"{number:,} {noun}{'' if number == 1 else 's'}"
