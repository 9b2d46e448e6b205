"""The size of a figure: drawn as large as its content needs, and written as large as it was asked for."""

import io
import re

from matplotlib.figure import Figure

from millstone.outputs.charts.settings import ChartSettings

SMALL = 6.0
"""Letters below so many points are hard to read in print."""
_POINTS, _MM = 72, 25.4
_SIDES = re.compile(r'width="[\d.]+pt" height="[\d.]+pt"')
# made at random each time, so that the same figure would not be the same file
_ID = re.compile(rb"/ID ?\[<([0-9A-Fa-f]+)><([0-9A-Fa-f]+)>\]")


def wanted_inches(settings: ChartSettings) -> tuple[float, float] | None:
    """The width and the height that were asked for, in inches; None where none were."""
    if settings.chart_size is None:
        return None
    width, height, unit = settings.chart_size
    inches = {"in": 1.0, "mm": 1 / _MM, "px": 1 / settings.chart_dpi}[unit]
    return width * inches, height * inches


def scale_of(figure: Figure, settings: ChartSettings) -> float:
    """By how much a figure is scaled when it is written."""
    wanted = wanted_inches(settings)
    return wanted[0] / float(figure.get_figwidth()) if wanted else 1.0


def resized_svg(svg: bytes, wanted: tuple[float, float]) -> bytes:
    """An SVG file of another size; its drawing stays as it is."""
    width, height = (f"{side * _POINTS:.4g}pt" for side in wanted)
    return _SIDES.sub(f'width="{width}" height="{height}"', svg.decode("utf-8"), count=1).encode("utf-8")


def resized_pdf(pdf: bytes, wanted: tuple[float, float]) -> bytes:
    """A PDF file of one page of another size, its text still text."""
    # few figures are PDF files of a size of their own
    import pypdfium2 as pdfium
    from pypdfium2 import raw

    document = pdfium.PdfDocument(pdf)
    page = document[0]
    across, down = page.get_size()
    width, height = (side * _POINTS for side in wanted)
    scale = raw.FS_MATRIX(width / across, 0, 0, height / down, 0, 0)
    raw.FPDFPage_TransFormWithClip(page, scale, raw.FS_RECTF(0, height, width, 0))
    page.set_mediabox(0, 0, width, height)
    out = io.BytesIO()
    document.save(out)
    document.close()
    return _ID.sub(
        lambda found: b"/ID[<" + b"0" * len(found[1]) + b"><" + b"0" * len(found[2]) + b">]", out.getvalue()
    )
