"""The settings of categories."""

from millstone.analyses.base.settings import DictionarySettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import dictionaries, output_path, switch


@frozen
class CategorySettings(DictionarySettings):
    """Settings of ``categories``."""

    by_group: str = setting(output_path("FILE"), "", "write means, deviations and pooled values of the groups")
    words: str = setting(
        output_path("FILE"), "", "write the words of each group with the categories they were counted for"
    )
    in_order: str = setting(
        output_path("FILE"), "", "write every word of the texts in order, with its categories", rare=True
    )
    marked: str = setting(
        output_path("FILE.html|-"), "", "write the texts with what was counted marked in them; - shows them here"
    )
    keep_all: bool = setting(
        switch(), False, "of a table: keep all rows and columns as they are, with the categories to their right"
    )
    validate: tuple[str, ...] = setting(
        dictionaries("FILE"),
        (),
        "count nothing; report what is odd about a dictionary and, with INPUT, what its entries catch",
    )

    @property
    def dictionaries(self) -> tuple[str, ...]:
        """The files that are read as dictionaries: those to be checked, or those to be counted."""
        return self.validate or self.dictionary
