"""From bytes to text, never replacing a character silently."""

import codecs
import io
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

from millstone.core.base.arrays import compiled
from millstone.core.base.errors import DataError
from millstone.texts.inputs.files import STANDARD_INPUT, open_source
from millstone.texts.inputs.provenance import Provenance

_SAMPLE = 1 << 18
CHUNK = 1 << 21
LONGEST_PIECE = 64 << 20
"""How many bytes may come without a space or a line end: no text has so many."""
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
        # a decoder leaves the mark out
        raise _wrong_bytes(data, error.start + len(data) - len(error.object), _named(path), encoding) from error
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
        From the iterator, for a byte that is not UTF-8.
    """
    with open_source(path) as file:
        codec = codec_of(file.read(4), encoding)
    if codec != "utf-8-sig":
        return None
    provenance.encodings[_shown(codec)] += 1

    def chunks() -> Iterator[bytes]:
        check = _Utf8Check()
        since_gap = 0
        with open_source(path) as file:
            mark = file.read(len(codecs.BOM_UTF8))
            chunk = b"" if mark == codecs.BOM_UTF8 else mark
            try:
                while chunk := chunk + file.read(CHUNK):
                    check.add(chunk)
                    if b"\0" in chunk:
                        raise zero_in(path, f"offset {_first_zero(path):,}", encoding)
                    gap = max(chunk.rfind(b" "), chunk.rfind(b"\n"))
                    since_gap = since_gap + len(chunk) if gap < 0 else len(chunk) - gap
                    if since_gap > LONGEST_PIECE:
                        raise _without_gaps(path)
                    yield chunk
                    chunk = b""
                check.finish()
            except UnicodeDecodeError as error:
                raise wrong_bytes_in(path, encoding) from error

    return chunks


class _Utf8Check:
    """Whether bytes that come in chunks are UTF-8; a decoder makes texts of them, which takes five times as long."""

    def __init__(self) -> None:
        self._rest = b""

    def add(self, chunk: bytes) -> None:
        """Raise UnicodeDecodeError for a byte that is not UTF-8."""
        data = self._rest + chunk if self._rest else chunk
        whole = compiled.whole(data) if compiled is not None else -1
        if whole < 0:
            # as a decoder sees it
            _, whole = codecs.utf_8_decode(data)
        self._rest = data[whole:]

    def finish(self) -> None:
        """Raise it where the last character is cut off."""
        self._rest.decode("utf-8")


def _first_zero(path: Path) -> int:
    """How many characters come before the first zero of a file in UTF-8."""
    with open_source(path) as file, io.TextIOWrapper(file, encoding="utf-8-sig", newline="") as text:
        before = 0
        while (found := (some := text.read(CHUNK)).find("\0")) < 0:
            before += len(some)
        return before + found


def _without_gaps(path: Path) -> DataError:
    return DataError(
        f"{_named(path)} has {LONGEST_PIECE >> 20} MB without a space or line break; this is not a text",
        "look at it in an editor; leave it out, or cut it into lines",
    )


def _named(path: Path) -> str:
    return "standard input" if str(path) == STANDARD_INPUT else str(path)


def wrong_bytes_in(path: Path, encoding: str) -> DataError:
    """The error of a file whose stream could not be decoded; it is read once more, piece by piece."""
    # bytes and lines before what is kept
    offset, lines, kept = 0, 0, b""
    with open_source(path) as file:
        chunk = file.read(CHUNK)
        check = codecs.getincrementaldecoder(codec_of(chunk[:4], encoding))()
        while True:
            try:
                check.decode(chunk, final=not chunk)
            except UnicodeDecodeError as error:
                # a decoder may have kept back the end of the chunk before
                wrong = len(kept) + error.start - (len(error.object) - len(chunk))
                data = kept + chunk + file.read(_SAMPLE)
                return _wrong_bytes(data, wrong, _named(path), encoding, (offset, lines))
            if not chunk:
                break
            kept += chunk
            dropped = kept[:-_SAMPLE]
            offset, lines, kept = offset + len(dropped), lines + dropped.count(b"\n"), kept[len(dropped) :]
            chunk = file.read(CHUNK)
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
            # some codecs turn bytes into bytes; that these bytes are wrong in one of text does not matter here
            with suppress(UnicodeError):
                b"a ".decode(name)
        except (LookupError, UnicodeError):
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
    """The error of a zero character, which no text has."""
    remedy = "if it is UTF-16 without a mark, type --encoding utf-16-le; else convert it to text first"
    if encoding:
        remedy = f"check --encoding {encoding}; if the file is damaged, get a fresh copy"
    return DataError(f"{_named(path)} is not plain text: there is a zero character at {place}", remedy)


def _wrong_bytes(data: bytes, wrong: int, name: str, encoding: str, before: tuple[int, int] = (0, 0)) -> DataError:
    """The error of a wrong byte in `data`, `before` which there are so many bytes and lines."""
    line_number = before[1] + data.count(b"\n", 0, wrong) + 1
    where = f"offset {before[0] + wrong:,}, line {line_number:,}"
    what = f"{name} is not {encoding or 'UTF-8'}: byte 0x{data[wrong]:02X} at {where}"
    likeliest = _likeliest(data, wrong)
    if not likeliest:
        return DataError(what, "save it as UTF-8, or name its encoding with --encoding")
    line = data[data.rfind(b"\n", 0, wrong) + 1 :].split(b"\n", 1)[0]
    near = line.decode(likeliest, errors="replace").strip()
    return DataError(what, f"type --encoding {likeliest} if this reads well: {near[:60]!r}")


def _likeliest(data: bytes, offset: int) -> str:
    from charset_normalizer import from_bytes

    best = from_bytes(data[max(0, offset - _SAMPLE) : offset + _SAMPLE]).best()
    if best is None:
        return ""
    return "cp1252" if "cp1252" in best.could_be_from_charset else best.encoding
