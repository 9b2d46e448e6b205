"""Reading many small files, a long table and a large workbook, each beside one text file of the same words.

    python benchmarks/sources.py [SCALE]

SCALE 1 (default) is 50,000 files, 1,000,000 rows and a workbook of 100 MB; 0.1 a tenth of each. Prints tokens
per second and peak memory of ``millstone freq``, the ratio of the time to that of the one file, and for the
workbook how its memory compares with the size of its texts.
"""

import csv
import subprocess
import sys
import tempfile
import zipfile
from collections.abc import Iterator
from pathlib import Path
from xml.sax.saxutils import escape

from corpus import write_text
from measure import MILLSTONE, measured

READ_ONLY = (
    "import sys, pathlib\n"
    "from millstone.texts.inputs.provenance import Provenance\n"
    "from millstone.core.settings.inputs import Reading\n"
    "from millstone.texts.inputs.tables.texts import read_table\n"
    "print(sum(1 for _ in read_table(pathlib.Path(sys.argv[1]), Reading(text='text'), Provenance())))"
)
PARTS = {
    "[Content_Types].xml": '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default '
    'Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName='
    '"/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/>'
    '<Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.'
    'spreadsheetml.worksheet+xml"/><Override PartName="/xl/sharedStrings.xml" ContentType="application/vnd.'
    'openxmlformats-officedocument.spreadsheetml.sharedStrings+xml"/></Types>',
    "_rels/.rels": '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" '
    'Target="xl/workbook.xml"/></Relationships>',
    "xl/workbook.xml": '<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://'
    'schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="a" sheetId="1" r:id="r1"/>'
    "</sheets></workbook>",
    "xl/_rels/workbook.xml.rels": '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" '
    'Target="worksheets/sheet1.xml"/><Relationship Id="r2" Type="http://schemas.openxmlformats.org/officeDocument/'
    '2006/relationships/sharedStrings" Target="sharedStrings.xml"/></Relationships>',
}
# on average, with the space after it
BYTES_OF_A_TOKEN = 6.1
MAIN = 'xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"'


def pieces(text: Path, words: int) -> Iterator[str]:
    """The text in pieces of so many words."""
    found = text.read_text("utf-8").split()
    return (" ".join(found[start : start + words]) for start in range(0, len(found), words))


def write_files(text: Path, folder: Path) -> None:
    for number, piece in enumerate(pieces(text, 70)):
        group = folder / f"g{number % 3}"
        group.mkdir(parents=True, exist_ok=True)
        (group / f"{number}.txt").write_text(piece, "utf-8")


def write_csv(text: Path, table: Path) -> None:
    with table.open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(["id", "hut", "text"])
        writer.writerows([number, f"g{number % 3}", piece] for number, piece in enumerate(pieces(text, 20)))


def write_workbook(text: Path, book: Path) -> None:
    """With its texts in the shared table of strings, as spreadsheet programs save them."""
    cells = ["text", *pieces(text, 80)]
    with zipfile.ZipFile(book, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in PARTS.items():
            archive.writestr(name, content)
        with archive.open("xl/sharedStrings.xml", "w", force_zip64=True) as file:
            file.write(f'<sst {MAIN} uniqueCount="{len(cells)}">'.encode())
            file.writelines(f"<si><t>{escape(cell)}</t></si>".encode() for cell in cells)
            file.write(b"</sst>")
        with archive.open("xl/worksheets/sheet1.xml", "w", force_zip64=True) as file:
            file.write(f"<worksheet {MAIN}><sheetData>".encode())
            rows = (f'<row r="{n + 1}"><c r="A{n + 1}" t="s"><v>{n}</v></c></row>' for n in range(len(cells)))
            file.writelines(row.encode() for row in rows)
            file.write(b"</sheetData></worksheet>")


KINDS = {
    "small files": (50_000 * 70, write_files, ""),
    "rows of a CSV": (1_000_000 * 20, write_csv, ".csv"),
    "rows of a workbook": (35_000_000, write_workbook, ".xlsx"),
}


def main(scale: float) -> None:
    print(f"{'':22}{'MB':>7}{'tokens/s':>12}{'peak MB':>9}{'of one file':>13}{'its MB':>8}")
    for kind, (tokens, _, ending) in KINDS.items():
        with tempfile.TemporaryDirectory() as folder:
            text, source = Path(folder, "text.txt"), Path(folder, f"source{ending}")
            make = [sys.executable, __file__, "--make", kind, str(int(tokens * scale)), str(text), str(source)]
            # in its own process: the memory of a started program counts from that of the starter
            subprocess.run(make, check=True)
            column = ["--text", "text"] if ending else []
            seconds, peak = measured([MILLSTONE, "freq", str(source), *column, "--quiet", "--no-cache"])
            alone, its_peak = measured([MILLSTONE, "freq", str(text), "--quiet", "--no-cache"])
            size = (source if ending else text).stat().st_size / 1e6
            rate, ratio = tokens * scale / seconds, seconds / alone
            print(f"{kind:22}{size:7.0f}{rate:12,.0f}{peak:9.0f}{ratio:13.2f}{its_peak:8.0f}", flush=True)
            if ending == ".xlsx":
                _, reading = measured([sys.executable, "-c", READ_ONLY, str(source)])
                texts = text.stat().st_size / 1e6
                print(f"{'  reading alone':22}{'':19}{reading:9.0f}   for {texts:.0f} MB of text in it")


if __name__ == "__main__":
    if sys.argv[1:2] == ["--make"]:
        made, number = Path(sys.argv[4]), int(sys.argv[3])
        write_text(made, number * BYTES_OF_A_TOKEN / 1e6)
        KINDS[sys.argv[2]][1](made, Path(sys.argv[5]))
        raise SystemExit
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 1.0)
