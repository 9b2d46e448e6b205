"""From bytes to text, never replacing a character silently."""

import codecs
from pathlib import Path

from millstone.core.errors import DataError

_SAMPLE = 1 << 18


def read_bytes(path: Path) -> bytes:
    """The bytes of a file.

    Raises
    ------
    DataError
        When the file cannot be read.
    """
    try:
        return path.read_bytes()
    except OSError as error:
        raise DataError(
            f"{path} cannot be read: {(error.strerror or str(error)).lower()}",
            "check that the file is still there and that you may read it",
        ) from error


def decode(data: bytes, path: Path, encoding: str = "") -> str:
    """Text of a file in `encoding`; without one, UTF-8 with or without a mark, or UTF-16 with one.

    Raises
    ------
    DataError
        Names file, offset and line of the first wrong byte, and the likeliest encoding.
    """
    try:
        text = data.decode(_codec(data, encoding))
    except UnicodeDecodeError as error:
        raise _wrong_bytes(data, path, encoding, error) from error
    zero = text.find("\0")
    if zero >= 0 and not encoding:
        raise DataError(
            f"{path} is no plain text: there is a zero character at offset {zero:,}",
            "if it is UTF-16 without a mark, type --encoding utf-16-le; else convert it to text first",
        )
    return text


def _codec(data: bytes, encoding: str) -> str:
    if encoding:
        try:
            name = codecs.lookup(encoding).name
        except LookupError:
            raise DataError(
                f"--encoding: {encoding!r} is not a known encoding",
                "common ones are utf-8, utf-16, cp1252, latin-1, cp1251 and shift_jis",
            ) from None
        return "utf-8-sig" if name == "utf-8" else name
    is_utf16 = data.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE))
    return "utf-16" if is_utf16 else "utf-8-sig"


def _wrong_bytes(data: bytes, path: Path, encoding: str, error: UnicodeDecodeError) -> DataError:
    line_number = data.count(b"\n", 0, error.start) + 1
    where = f"offset {error.start:,}, line {line_number:,}"
    what = f"{path} is not {encoding or 'UTF-8'}: byte 0x{data[error.start]:02X} at {where}"
    likeliest = _likeliest(data, error.start)
    if not likeliest:
        return DataError(what, "save it as UTF-8, or name its encoding with --encoding")
    line = data[data.rfind(b"\n", 0, error.start) + 1 :].split(b"\n", 1)[0]
    near = line.decode(likeliest, errors="replace").strip()
    return DataError(what, f"type --encoding {likeliest} if this reads well: {near[:60]!r}")


def _likeliest(data: bytes, offset: int) -> str:
    from charset_normalizer import from_bytes

    best = from_bytes(data[max(0, offset - _SAMPLE) : offset + _SAMPLE]).best()
    if best is None:
        return ""
    return "cp1252" if "cp1252" in best.could_be_from_charset else best.encoding
