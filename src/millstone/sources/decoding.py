"""From bytes to text, never replacing a character silently."""

import codecs
import io
from collections.abc import Callable, Iterator
from pathlib import Path

from millstone.core.errors import DataError
from millstone.sources.files import open_source
from millstone.sources.provenance import Provenance

_SAMPLE = 1 << 18
CHUNK = 1 << 21
_MARKED_UTF16 = (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)


def decode(data: bytes, path: Path, encoding: str = "", provenance: Provenance | None = None) -> str:
    """Text of a file in `encoding`; without one, UTF-8 with or without a mark, or UTF-16 with one.

    Raises
    ------
    DataError
        Names file, offset and line of the first wrong byte, and the likeliest encoding.
    """
    codec = codec_of(data[:4], encoding)
    try:
        text = data.decode(codec)
    except UnicodeDecodeError as error:
        raise _wrong_bytes(data, path, encoding, error) from error
    _check_zero(text, path, encoding)
    if provenance is not None:
        provenance.encodings[_shown(codec)] += 1
    return text


def open_text(path: Path, encoding: str, provenance: Provenance) -> io.TextIOWrapper:
    """A file as a stream of text, line ends as they are; wrong bytes raise UnicodeDecodeError.

    Raises
    ------
    DataError
    """
    buffered = open_source(path)
    start = buffered.peek(_SAMPLE)
    codec = codec_of(start[:4], encoding)
    if codec == "utf-8-sig":
        _check_zero(start.decode("latin-1"), path, encoding)
    provenance.encodings[_shown(codec)] += 1
    return io.TextIOWrapper(buffered, encoding=codec, newline="")


def utf8_chunks(path: Path, encoding: str, provenance: Provenance) -> Callable[[], Iterator[bytes]] | None:
    """A way to go through a file in chunks of UTF-8, without its mark; None when it is in another encoding.

    Raises
    ------
    DataError
        From the iterator, for a byte that is none of UTF-8.
    """
    with open_source(path) as file:
        codec = codec_of(file.read(4), encoding)
    if codec != "utf-8-sig":
        return None
    provenance.encodings[_shown(codec)] += 1

    def chunks() -> Iterator[bytes]:
        check = codecs.getincrementaldecoder("utf-8")()
        with open_source(path) as file:
            mark = file.read(len(codecs.BOM_UTF8))
            chunk = b"" if mark == codecs.BOM_UTF8 else mark
            try:
                while chunk := chunk + file.read(CHUNK):
                    check.decode(chunk)
                    if b"\0" in chunk:
                        _check_zero(path.read_bytes().decode("utf-8-sig"), path, encoding)
                    yield chunk
                    chunk = b""
                check.decode(b"", final=True)
            except UnicodeDecodeError as error:
                raise wrong_bytes_in(path, encoding) from error

    return chunks


def wrong_bytes_in(path: Path, encoding: str) -> DataError:
    """What is wrong in a file whose stream could not be decoded."""
    with open_source(path) as file:
        data = file.read()
    try:
        data.decode(codec_of(data[:4], encoding))
    except UnicodeDecodeError as error:
        return _wrong_bytes(data, path, encoding, error)
    return DataError(f"{path} was changed while it was being read", "run the command again when nothing writes to it")


def codec_of(start: bytes, encoding: str) -> str:
    """The codec for a file that begins with `start`.

    Raises
    ------
    DataError
        When `encoding` is not known.
    """
    if encoding:
        try:
            name = codecs.lookup(encoding).name
            # some codecs turn bytes into bytes, or take no text at all
            b"a ".decode(name)
        except UnicodeError:
            pass
        except LookupError:
            raise DataError(
                f"--encoding: {encoding!r} is not a known encoding",
                "common ones are utf-8, utf-16, cp1252, latin-1, cp1251 and shift_jis",
            ) from None
        return "utf-8-sig" if name == "utf-8" else name
    return "utf-16" if start.startswith(_MARKED_UTF16) else "utf-8-sig"


def _shown(codec: str) -> str:
    return "utf-8" if codec == "utf-8-sig" else codec


def _check_zero(text: str, path: Path, encoding: str) -> None:
    zero = text.find("\0")
    if zero >= 0:
        raise zero_in(path, f"offset {zero:,}", encoding)


def zero_in(path: Path, place: str, encoding: str) -> DataError:
    """That a text has a zero character, which no text has."""
    remedy = "if it is UTF-16 without a mark, type --encoding utf-16-le; else convert it to text first"
    if encoding:
        remedy = f"check --encoding {encoding}; a file that is damaged must be got anew"
    return DataError(f"{path} is not plain text: there is a zero character at {place}", remedy)


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
