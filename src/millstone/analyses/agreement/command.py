"""Agreement: does a category count what coders say it should, and do coders agree?"""

from millstone.analyses.agreement.settings import AgreementSettings
from millstone.analyses.base.command import Command

COMMAND = Command(
    "agreement",
    "does a category count what coders say it should?",
    AgreementSettings,
    None,
    "SHEET is what code wrote, filled in: a table, a workbook, a folder of them; several coders, several files.\n"
    "precision is the share of what the category counts that is right, recall the share of what it should count\n"
    "that it finds, f1 both in one; kappa and alpha are 1 where coders agree and 0 where they guess.",
    (
        "agreement coding.csv",
        "agreement coding.csv --entries - --arbiter C",
        "agreement coding.csv --cases cases.csv -o agreement.csv",
    ),
    heading="count",
    tables=("entries", "cases"),
    reads_texts=False,
)
