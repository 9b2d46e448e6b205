"""Languages by name, for those who type a name where a code is wanted."""

from collections.abc import Collection

from millstone.core.base.errors import DataError
from millstone.core.base.wording import nearest

CODES = {
    **{"arabic": "ar", "armenian": "hy", "basque": "eu", "bulgarian": "bg", "catalan": "ca", "chinese": "zh"},
    **{"czech": "cs", "danish": "da", "dutch": "nl", "english": "en", "esperanto": "eo", "estonian": "et"},
    **{"finnish": "fi", "french": "fr", "german": "de", "greek": "el", "hebrew": "he", "hindi": "hi"},
    **{"hungarian": "hu", "indonesian": "id", "irish": "ga", "italian": "it", "japanese": "ja", "korean": "ko"},
    **{"latin": "la", "lithuanian": "lt", "nepali": "ne", "norwegian": "nb", "persian": "fa", "polish": "pl"},
    **{"portuguese": "pt", "romanian": "ro", "russian": "ru", "serbian": "sr", "slovak": "sk", "spanish": "es"},
    **{"swedish": "sv", "tamil": "ta", "turkish": "tr", "ukrainian": "uk", "vietnamese": "vi", "yiddish": "yi"},
    **{"welsh": "cy", "deutsch": "de", "español": "es", "français": "fr", "italiano": "it", "nederlands": "nl"},
}
"""The name of a language -> its code (ISO 639-1)."""


def code_of(typed: str, known: Collection[str]) -> str:
    """The code that a name of a language stands for, if it is among the `known` ones; "" for none."""
    code = CODES.get(typed.strip().lower().replace("_", "-").partition("-")[0], "")
    if not code and len(typed) > 2 and typed[2] in "-_":
        code = typed[:2].lower()
    return code if code in known else ""


def check_code(typed: str, known: Collection[str], option: str, missing: str, remedy: str) -> None:
    """Raise DataError for a code that is not among the `known` ones; the name of a language gets its code.

    `missing` says what there is none of, such as ``there is no stemmer for``.
    """
    if typed in known:
        return
    if meant := code_of(typed, known):
        raise DataError(f"{option}: {typed!r} is the name of a language", f"type its code: {option} {meant}")
    raise DataError(f"{option}: {missing} {typed!r}{nearest(typed, known)}", remedy)
