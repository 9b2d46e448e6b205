"""A study as one archive: its file, lists, results, texts; described as RO-Crate 1.1 (Soiland-Reyes et al. 2022)."""

import hashlib
import io
import json
import mimetypes
import re
import zipfile
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError
from millstone.core.base.version import VERSION
from millstone.core.base.wording import escaped
from millstone.outputs.disk.ledger import LEDGER, RESULTS, Ledger
from millstone.study.record.files import StudyFiles
from millstone.study.study import Author, Study
from millstone.texts.inputs.files import STANDARD_INPUT
from millstone.texts.inputs.provenance import SourceFile

DESCRIPTION = "ro-crate-metadata.json"
"""The file in which a bundle is described."""

_CONTEXT = ["https://w3id.org/ro/crate/1.1/context", {"sha256": "https://schema.org/sha256"}]
_PROFILE = "https://w3id.org/ro/crate/1.1"
_SOFTWARE = {
    "@id": "#millstone",
    "@type": "SoftwareApplication",
    "name": "millstone",
    "version": VERSION,
    "softwareVersion": VERSION,
}
_FIRST_DAY = "1980-01-01"
_TYPES = {".toml": "application/toml", ".jsonl": "application/jsonl", ".parquet": "application/vnd.apache.parquet"}
_HEAD = re.compile(r"^[ \t]*\[[ \t]*study[ \t]*\][^\n]*\n", re.MULTILINE)


def bundle(files: StudyFiles, with_inputs: bool) -> bytes:
    """The archive; the same study gives the same bytes.

    Parameters
    ----------
    files : StudyFiles
        What the study read and wrote.
    with_inputs : bool
        Pack the texts as well; otherwise their checksums say which they were.

    Raises
    ------
    DataError
        For a file that is to be packed and lies outside the folder of the study.
    """
    day = files.date() or _FIRST_DAY
    content = {files.path.name: _dated(files.path.read_bytes(), files.study, day)}
    lists, texts = files.lists(), files.texts()
    packed = {
        **lists,
        **({name: file for name, file in texts.items() if name != STANDARD_INPUT} if with_inputs else {}),
    }
    for name, file in packed.items():
        content[_inside(name, files)] = Path(file.path).read_bytes()
    results = [_inside(files.seen(path), files) for path in files.written]
    content |= {name: (files.path.parent / name).read_bytes() for name in results}
    content |= _ledgers(results, content)
    missing = {name: file for name, file in texts.items() if name not in content}
    content[DESCRIPTION] = _described(files, content, [*packed], results, missing, day)
    return _zipped(content, day)


def _dated(study: bytes, given: Study, day: str) -> bytes:
    """The study file with the date of its texts, which archives do not keep."""
    text = study.decode("utf-8-sig")
    if given.date:
        return study
    line = f'date = "{day}"\n'
    head = _HEAD.search(text)
    return (f"{text[: head.end()]}{line}{text[head.end() :]}" if head else f"[study]\n{line}\n{text}").encode("utf-8")


def _inside(name: str, files: StudyFiles) -> str:
    if name.startswith("../") or Path(name).is_absolute():
        raise DataError(
            f"{name} lies outside the folder of the study, {files.path.parent.resolve()}, and cannot be packed",
            "move it into that folder and change the study file, or leave --with-inputs out if it is a text",
        )
    if escaped(name) != name:
        raise DataError(f"{name}: its name is not in UTF-8, as names in a bundle are", "rename it first")
    return name


def _ledgers(results: list[str], content: Mapping[str, bytes]) -> dict[str, bytes]:
    """Ledgers that mark results as millstone's own, so that they may be made anew after unpacking."""
    folders: dict[str, dict[str, str]] = {}
    for name in results:
        folder, _, own = name.rpartition("/")
        folders.setdefault(folder, {})[own] = hashlib.sha256(content[name]).hexdigest()
    return {
        f"{folder}/{LEDGER}".lstrip("/"): Ledger().ended(RESULTS, here).as_json() for folder, here in folders.items()
    }


def _described(
    files: StudyFiles,
    content: Mapping[str, bytes],
    read: list[str],
    results: list[str],
    missing: Mapping[str, SourceFile],
    day: str,
) -> bytes:
    """The description as JSON-LD."""
    parts = [_file(name, data) for name, data in content.items() if not name.endswith(LEDGER)]
    absent = [_absent(number, name, file) for number, (name, file) in enumerate(missing.items(), 1)]
    authors = [_author(number, author) for number, author in enumerate(files.study.authors, 1)]
    licence = _licence(files.study.licence)
    about = {
        "@id": DESCRIPTION,
        "@type": "CreativeWork",
        "conformsTo": {"@id": _PROFILE},
        "about": {"@id": "./"},
    }
    root = {
        "@id": "./",
        "@type": "Dataset",
        "name": files.study.title,
        "description": f"A study of texts with its results, made with millstone {VERSION}; to make the "
        f"results again: millstone run {files.path.name}",
        "datePublished": day,
        "hasPart": _ids(parts),
        "mentions": [{"@id": "#run"}],
        **({"author": _ids(authors)} if authors else {}),
        **({"license": {"@id": licence["@id"]}} if licence else {}),
    }
    run = {
        "@id": "#run",
        "@type": "CreateAction",
        "name": f"millstone run {files.path.name}",
        "instrument": {"@id": _SOFTWARE["@id"]},
        "object": [{"@id": name} for name in (files.path.name, *read)] + _ids(absent),
        "result": [{"@id": name} for name in results],
    }
    graph = [about, root, *parts, *absent, run, _SOFTWARE, *authors, *([licence] if licence else [])]
    return (json.dumps({"@context": _CONTEXT, "@graph": graph}, ensure_ascii=False, indent=1) + "\n").encode("utf-8")


def _ids(entities: Sequence[Mapping[str, Any]]) -> list[dict[str, str]]:
    return [{"@id": one["@id"]} for one in entities]


def _file(name: str, data: bytes) -> dict[str, Any]:
    kind = _TYPES.get(Path(name).suffix.lower()) or mimetypes.guess_type(name)[0] or "application/octet-stream"
    return {
        "@id": name,
        "@type": "File",
        "name": Path(name).name,
        "encodingFormat": kind,
        "contentSize": str(len(data)),
        "sha256": hashlib.sha256(data).hexdigest(),
    }


def _absent(number: int, name: str, file: SourceFile) -> dict[str, Any]:
    """A text that is not packed: no part of the bundle, but known by its checksum."""
    return {
        "@id": f"#text-{number}",
        "@type": "CreativeWork",
        "name": name,
        "description": "a text that was read and is not part of this bundle",
        "size": f"{file.size} bytes",
        "sha256": file.sha256,
    }


def _author(number: int, author: Author) -> dict[str, Any]:
    known = f"https://orcid.org/{author.orcid}" if author.orcid else f"#author-{number}"
    return {"@id": known, "@type": "Person", "name": author.name}


def _licence(given: str) -> dict[str, Any]:
    """A licence by its address, by its short name in the list of SPDX, or in words."""
    if not given:
        return {}
    if given.startswith(("https://", "http://")):
        return {"@id": given, "@type": "CreativeWork", "name": given}
    if re.fullmatch(r"[A-Za-z0-9.+-]+", given):
        return {"@id": f"https://spdx.org/licenses/{given}", "@type": "CreativeWork", "name": given}
    return {"@id": "#licence", "@type": "CreativeWork", "name": given}


def _zipped(content: Mapping[str, bytes], day: str) -> bytes:
    year, month, date = (int(part) for part in max(day, _FIRST_DAY).split("-"))
    archive = io.BytesIO()
    with zipfile.ZipFile(archive, "w", zipfile.ZIP_DEFLATED) as made:
        for name, data in sorted(content.items()):
            entry = zipfile.ZipInfo(name, (year, month, date, 0, 0, 0))
            entry.compress_type = zipfile.ZIP_DEFLATED
            entry.external_attr = 0o644 << 16
            made.writestr(entry, data)
    return archive.getvalue()
