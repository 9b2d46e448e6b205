"""The settings of matrix."""

from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import choice, integer, switch


@frozen
class MatrixSettings:
    """Settings of ``matrix``."""

    by: str = setting(choice("document", "group"), "document", "one row per document, or one row per group")
    transpose: bool = setting(switch(), False, "one row per term, one column per document or group")
    weight: str = setting(
        choice("count", "relative", "binary", "tfidf"),
        "count",
        "occurrences, their share of the row's tokens, 1 for present, or occurrences x ln(D / docs)",
    )
    min_freq: int = setting(integer("N", 1), 1, "leave out terms with fewer than N occurrences in all")
    max_freq: int = setting(integer("N"), 0, "leave out terms with more than N occurrences in all")
    min_docs: int = setting(integer("N"), 0, "leave out terms in fewer than N documents")
