"""Characters that XML cannot hold, in one place: graphs, workbooks, drawings and pages are XML, or nearly so."""

import re

PICTURES = {code: chr(0x2400 + code) for code in range(0x20) if chr(code) not in "\t\n\r"}
"""Control characters -> the signs that Unicode has as pictures of them."""
_NOT_IN_XML = PICTURES | dict.fromkeys((*range(0xD800, 0xE000), 0xFFFE, 0xFFFF), "\ufffd")
# halves of characters are none, whoever wrote them so
_OF_WORKBOOKS = re.compile(r"_x(?![Dd][89A-Fa-f])([0-9A-Fa-f]{4})_")


def xml_text(text: str) -> str:
    """A text as XML 1.0 can hold it: pictures of control characters, U+FFFD for what is not a character.

    Examples
    --------
    >>> xml_text("ice" + chr(7) + chr(0xFFFE)) == "ice" + chr(0x2407) + chr(0xFFFD)
    True
    """
    return text.translate(_NOT_IN_XML)


def workbook_text(text: str) -> str:
    """A text as a cell of a workbook holds it: one that looks like the escape of a character is marked as none."""
    return _OF_WORKBOOKS.sub(r"_x005F_x\1_", xml_text(text))


def text_of_workbook(cell: str) -> str:
    """The text of a cell of a workbook, where ``_x0041_`` is the letter of that number.

    Examples
    --------
    >>> text_of_workbook("ice_x000D_"), text_of_workbook(workbook_text("_x0041_"))
    ('ice\\r', '_x0041_')
    """
    return _OF_WORKBOOKS.sub(lambda found: chr(int(found[1], 16)), cell) if "_x" in cell else cell
