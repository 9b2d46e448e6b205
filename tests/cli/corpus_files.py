"""One small corpus of three groups, saved in every format that is read, by libraries of others."""

import csv
import gzip
import html
import io
import json
from pathlib import Path

# a line-end hyphen, a soft hyphen, a ligature, an entity, a word with its own hyphen at a line end, accents
CORPUS = {
    "Ostrel": {
        "text": ["The weath-\ner was bad & cold; the snow\u00adfield lay deep.", "A well-kept stove. Well-\nkept, and \ufb01ne!"],
        "table": [["rope", "12"], ["ice axe", "3.5"]],
        "note": "The stove is new.",
    },
    "Fallowmere": {
        "text": ["Don’t wake the children: “Hush”, said Núria.", "The boat & the lake, the lake & the boat."],
        "table": [["boat", "2"], ["oar", "4"]],
        "note": "Boats since 1987.",
    },
    "Haskgate": {
        "text": ["A long stage: 31 kilo-\nmetres to the o\ufb03ce of the warden.", "Wet socks, wet boots, wet every-\nthing."],
        "table": [["socks", "wet"], ["boots", "wet"]],
        "note": "See the book.",
    },
}  # fmt: skip

# counted by hand
FREQ = {
    "Ostrel": "the 3, stove 2, well-kept 2, 12, 3.5, a, and, axe, bad, cold, deep, fine, ice, is, lay, new, rope, snowfield, was, weather",
    "Fallowmere": "the 5, boat 3, lake 2, 1987, 2, 4, boats, children, don't, hush, núria, oar, said, since, wake",
    "Haskgate": "wet 5, the 3, boots 2, of 1, socks 2, 31, a, book, everything, kilometres, long, office, see, stage, to, warden",
}  # fmt: skip


def counted_by_hand() -> dict[str, dict[str, int]]:
    """Group -> term -> frequency."""
    found = {}
    for group, line in FREQ.items():
        cells = [cell.strip() for cell in line.split(",")]
        found[group] = {
            term: int(number) if number else 1 for term, _, number in (cell.partition(" ") for cell in cells)
        }
    return found


def plain(parts: dict) -> str:
    """A document as plain text, its entities undecoded."""
    rows = ["\t".join(row) for row in parts["table"]]
    return "\n\n".join([*parts["text"], "\n".join(rows), parts["note"]]).replace("&", "&amp;")


def _write(path: Path, data: bytes | str) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(data.encode("utf-8") if isinstance(data, str) else data)


def _rows() -> list[dict[str, str]]:
    return [{"hut": group, "nights": "1", "entry": plain(parts)} for group, parts in CORPUS.items()]


def _delimited(path: Path, delimiter: str) -> None:
    with io.StringIO(newline="") as file:
        writer = csv.DictWriter(file, ["hut", "nights", "entry"], delimiter=delimiter)
        writer.writeheader()
        writer.writerows(_rows())
        _write(path, file.getvalue())


def write_tables(folder: Path) -> None:
    """book.csv, .tsv, .xlsx, .jsonl, .parquet and packed ones."""
    import openpyxl
    import pyarrow
    from pyarrow import parquet

    _delimited(folder / "book.csv", ",")
    _delimited(folder / "semicolon.csv", ";")
    _delimited(folder / "book.tsv", "\t")
    _write(folder / "book.jsonl", "".join(json.dumps(row, ensure_ascii=False) + "\n" for row in _rows()))
    for name in ("book.csv", "book.jsonl"):
        _write(folder / f"{name}.gz", gzip.compress((folder / name).read_bytes()))
    parquet.write_table(pyarrow.Table.from_pylist(_rows()), folder / "book.parquet")
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.append(["Guest book"])
    sheet.merge_cells("A1:C1")
    sheet.append([])
    sheet.append(["hut", "nights", "entry"])
    for row in _rows():
        sheet.append([row["hut"], int(row["nights"]), row["entry"]])
        sheet.append([])
    book.create_sheet("other")
    book.save(folder / "book.xlsx")


def write_texts(folder: Path) -> list[str]:
    """A folder for each ending, with a subfolder per group; returns the endings."""
    writers = {
        "txt": lambda path, parts: _write(path, plain(parts)),
        "txt.gz": lambda path, parts: _write(path, gzip.compress(plain(parts).encode())),
        "html": lambda path, parts: _write(path, _html(parts)),
        "xml": lambda path, parts: _write(path, _tei(parts)),
        "conllu": lambda path, parts: _write(path, _conllu(parts)),
        "docx": _docx,
        "odt": _odt,
        "pdf": _pdf,
    }
    for ending, write in writers.items():
        for group, parts in CORPUS.items():
            path = folder / ending / group / f"one.{ending}"
            path.parent.mkdir(parents=True, exist_ok=True)
            write(path, parts)
    return list(writers)


def _html(parts: dict) -> str:
    paragraphs = "".join(f"<p>{html.escape(text).replace(chr(10), '<br>')}</p>" for text in parts["text"])
    rows = "".join("<tr>" + "".join(f"<td>{cell}</td>" for cell in row) + "</tr>" for row in parts["table"])
    return (
        "<!DOCTYPE html><html><head><meta charset='utf-8'><title>Unseen title</title><style>p { color: red }</style>"
        "</head><body><script>var unseen = 1;</script><p hidden>unseen</p>"
        f"{paragraphs}<table>{rows}</table><div>{parts['note']}</div></body></html>"
    )


def _tei(parts: dict) -> str:
    first, *others = (html.escape(text, quote=False).replace("\n", "<lb/>") for text in parts["text"])
    rows = "".join("<row>" + "".join(f"<cell>{cell}</cell>" for cell in row) + "</row>" for row in parts["table"])
    paragraphs = "".join(f"<p>{text}</p>" for text in others)
    return (
        '<?xml version="1.0" encoding="UTF-8"?><TEI xmlns="http://www.tei-c.org/ns/1.0"><teiHeader><fileDesc><titleStmt>'
        "<title>Unseen</title><author>A. Warden</author></titleStmt></fileDesc></teiHeader><text><body>"
        f"<p>{first}<note>{parts['note']}</note></p>{paragraphs}<table>{rows}</table></body></text></TEI>"
    )


def _conllu(parts: dict) -> str:
    words = plain(
        {**parts, "text": [text.replace("Well-\nkept", "Well-kept").replace("-\n", "") for text in parts["text"]]}
    )
    lines = ["# newdoc id = one", "# warden = Rhona"]
    for sentence in words.replace("&amp;", "&").split("\n"):
        spaced = sentence
        for mark in ".,;:!“”":
            spaced = spaced.replace(f"{mark} ", f" {mark} ").replace("“", "“ ").removesuffix(mark)
        for number, form in enumerate(spaced.replace("”,", "").split(), 1):
            lines.append("\t".join([str(number), form, form.lower(), "X", *["_"] * 6]))
        lines.append("")
    return "\n".join(lines)


def _docx(path: Path, parts: dict) -> None:
    import docx
    from docx.opc.constants import RELATIONSHIP_TYPE
    from docx.opc.packuri import PackURI
    from docx.opc.part import Part

    document = docx.Document()
    for text in parts["text"]:
        document.add_paragraph(text)
    table = document.add_table(rows=0, cols=2)
    for row in parts["table"]:
        for cell, value in zip(table.add_row().cells, row, strict=True):
            cell.text = value
    main = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"
    notes = (
        f'<w:footnotes xmlns:w="{main}"><w:footnote w:type="separator" w:id="0"><w:p><w:r><w:t>unseen</w:t></w:r></w:p>'
        f'</w:footnote><w:footnote w:id="2"><w:p><w:r><w:t>{parts["note"]}</w:t></w:r></w:p></w:footnote></w:footnotes>'
    )
    kind = "application/vnd.openxmlformats-officedocument.wordprocessingml.footnotes+xml"
    part = Part(PackURI("/word/footnotes.xml"), kind, notes.encode(), document.part.package)
    document.part.relate_to(part, RELATIONSHIP_TYPE.FOOTNOTES)
    document.sections[0].header.paragraphs[0].text = "unseen"
    document.save(str(path))


def _odt(path: Path, parts: dict) -> None:
    from odf import table, text
    from odf.opendocument import OpenDocumentText

    document = OpenDocumentText()
    for number, content in enumerate(parts["text"]):
        paragraph = text.P()
        for place, line in enumerate(content.split("\n")):
            if place:
                paragraph.addElement(text.LineBreak())
            paragraph.addText(line)
        if not number:
            note = text.Note(noteclass="footnote")
            note.addElement(text.NoteCitation(text="1"))
            body = text.NoteBody()
            body.addElement(text.P(text=parts["note"]))
            note.addElement(body)
            paragraph.addElement(note)
        document.text.addElement(paragraph)
    grid = table.Table()
    for row in parts["table"]:
        line = table.TableRow()
        for value in row:
            cell = table.TableCell()
            cell.addElement(text.P(text=value))
            line.addElement(cell)
        grid.addElement(line)
    document.text.addElement(grid)
    document.save(str(path))


def _pdf(path: Path, parts: dict) -> None:
    import matplotlib
    from fpdf import FPDF

    pdf = FPDF()
    pdf.add_font("any", fname=Path(matplotlib.get_data_path()) / "fonts" / "ttf" / "DejaVuSans.ttf")
    pdf.set_font("any", size=12)
    for text in parts["text"]:
        pdf.add_page()
        for line in text.split("\n"):
            pdf.cell(0, 8, line, new_x="LMARGIN", new_y="NEXT")
    for row in [*parts["table"], [parts["note"]]]:
        for cell in row:
            pdf.cell(60, 8, cell)
        pdf.ln(10)
    pdf.output(str(path))
