"""Lines of a concordance as a page: what was found under each other, each line opening its paragraph."""

from collections.abc import Mapping
from html import escape
from string import Template
from typing import Any

import pandas as pd

from millstone.core.reading.lines import beside, touches
from millstone.core.result import Result
from millstone.core.wording import numbered

PARAGRAPHS = "paragraphs"
"""The further table that holds the paragraph of each line: ``line, left, right``."""

_ORDERS = {"line": "document", "left": "left", "right": "right"}

_PAGE = Template("""<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>$title</title>
<style>
body { font: 15px/1.5 "DejaVu Sans", Verdana, sans-serif; color: #22282e; margin: 0 auto; max-width: 84rem;
  padding: 1.2rem; }
h1 { font: bold 1.4rem Georgia, "DejaVu Serif", serif; margin: 0 0 .2rem; }
.small, .about { font-size: .82rem; color: #59636d; } .about { margin: 0 0 .8rem; }
.tools { display: flex; flex-wrap: wrap; gap: .6rem; align-items: center; margin: .6rem 0; }
.tools input { font: inherit; padding: .2rem .4rem; width: 18rem; max-width: 100%; }
.tools button { font: inherit; padding: .2rem .7rem; } .tools [aria-pressed=true] { background: #cfe3f1; }
details { border-bottom: 1px solid #e4e8eb; } summary { list-style: none; cursor: pointer; display: grid;
  grid-template-columns: 3.2rem 9rem minmax(0, 1fr) minmax(0, 1fr); column-gap: .3rem; padding: .15rem 0; }
summary::-webkit-details-marker { display: none; } summary:hover { background: #f3f6f8; }
summary > * { white-space: nowrap; overflow: hidden; }
.n { text-align: right; } .d { text-overflow: ellipsis; } .n, .d { color: #59636d; font-size: .82rem; }
.l { direction: rtl; text-align: right; } .l span { unicode-bidi: isolate; } .l, .r { text-overflow: ellipsis; }
b { text-decoration: underline; text-underline-offset: .15em; }
strong { text-decoration: underline dotted; text-underline-offset: .15em; }
details p { font: 1rem/1.6 Georgia, "DejaVu Serif", serif; margin: .4rem 0 .8rem 12.7rem; max-width: 60rem; }
h2 { font-size: 1rem; margin: 1.4rem 0 .3rem; }
@media (max-width: 50rem) { summary { grid-template-columns: 2.2rem minmax(0, 1fr) minmax(0, 1fr); }
  .d { display: none; } details p { margin-left: 1rem; } }
@media print { .tools { display: none; } body { font-size: 9pt; } }
</style>
</head>
<body>
<h1>$title</h1>
<p class="about">$about</p>
<div class="tools" hidden><input type="search" placeholder="only lines with ..." aria-label="only lines with">
<span class="small">sort by</span> $buttons <span class="small" id="shown"></span></div>
$lines
<script>
(function () {
  var tools = document.querySelector(".tools"), blocks = [].slice.call(document.querySelectorAll(".lines"));
  tools.hidden = false;
  function words(line, side) {
    var text = line.querySelector(side === "left" ? ".l" : ".t").textContent.toLowerCase();
    var found = text.match(/[\\p{L}\\p{N}]+/gu) || [];
    return side === "left" ? found.reverse() : found;
  }
  function before(one, two) {
    for (var at = 0; at < one.length && at < two.length; at++) {
      if (one[at] !== two[at]) { return one[at] < two[at] ? -1 : 1; }
    }
    return one.length - two.length;
  }
  function narrow() {
    var wanted = tools.querySelector("input").value.toLowerCase(), shown = 0;
    blocks.forEach(function (block) {
      [].forEach.call(block.children, function (line) {
        line.hidden = line.querySelector("summary").textContent.toLowerCase().indexOf(wanted) < 0;
        shown += line.hidden ? 0 : 1;
      });
    });
    document.getElementById("shown").textContent = wanted ? shown + " lines" : "";
  }
  tools.querySelector("input").addEventListener("input", narrow);
  tools.addEventListener("click", function (event) {
    var by = event.target.getAttribute("data-by");
    if (!by) { return; }
    [].forEach.call(tools.querySelectorAll("button"), function (one) {
      one.setAttribute("aria-pressed", one === event.target);
    });
    blocks.forEach(function (block) {
      var lines = [].map.call(block.children, function (line) {
        return { line: line, number: +line.getAttribute("data-line"), words: by === "line" ? [] : words(line, by) };
      });
      lines.sort(function (one, two) { return before(one.words, two.words) || one.number - two.number; });
      lines.forEach(function (one) { block.appendChild(one.line); });
    });
  });
})();
</script>
</body>
</html>
""")


def as_lines_page(result: Result, notes: Mapping[str, Any]) -> bytes:
    """The page in UTF-8; it needs neither a network nor scripts, without which lines stay in their order."""
    frame = result.frame
    nodes = [("", frame)] if "node" not in frame.columns else list(frame.groupby("node", sort=False))
    paragraphs = result.tables[PARAGRAPHS].frame.set_index("line") if PARAGRAPHS in result.tables else None
    blocks = []
    for name, rows in nodes:
        heading = f"<h2>{escape(str(name))}: {numbered(len(rows), 'line')}</h2>\n" if name else ""
        lines = "\n".join(_line(row, paragraphs) for row in rows.to_dict("records"))
        blocks.append(f'{heading}<div class="lines">\n{lines}\n</div>')
    settings = result.settings
    named = _looked_for(settings)
    inputs = " ".join(map(str, notes.get("input", [])))
    about = f"{numbered(len(frame), 'line')} of {inputs}; millstone {notes['millstone']}."
    page = _PAGE.substitute(
        title=escape(f"Concordance: {named}" if named else "Concordance"),
        about=escape(about + " Open a line for its paragraph."),
        buttons=" ".join(_button(by, name, settings) for by, name in _ORDERS.items()),
        lines="\n".join(blocks),
    )
    return page.encode("utf-8", "replace")


def _looked_for(settings: Mapping[str, Any]) -> str:
    """What the lines are of, for the title."""
    if table := settings.get("from"):
        row = f"row {settings['row']}" if "row" in settings else str(settings.get("term"))
        return f"{row} of {table}"
    found = settings.get("find") or settings.get("select") or settings.get("dictionary")
    return ", ".join(map(str, found)) if isinstance(found, list | tuple) else str(found or "")


def _button(by: str, name: str, settings: Mapping[str, Any]) -> str:
    """A button to sort by, pressed where lines stand in that order."""
    pressed = str(name == (settings.get("sort") or "document")).lower()
    return f'<button data-by="{by}" aria-pressed="{pressed}">{name}</button>'


def _line(row: Mapping[Any, Any], paragraphs: pd.DataFrame | None) -> str:
    left, found, right = (str(row[name]) for name in ("left", "found", "right"))
    document = escape(str(row["document"]), quote=True)
    group = f" ({escape(str(row['group']), quote=True)})" if row["group"] != row["document"] else ""
    before, after = left, right
    if paragraphs is not None:
        before, after = (str(paragraphs.at[row["line"], name]) for name in ("left", "right"))
    return (
        f'<details data-line="{row["line"]}"><summary><span class="n">{row["line"]:,}</span>'
        f'<span class="d" title="{document}{group}">{document}</span>'
        f'<span class="l"><span dir="auto">{_with_collocate(left, row, -1)}</span></span>'
        f'<span class="r" dir="auto">{_marked("", found, right, row)}</span></summary>'
        f'<p dir="auto">{_marked(before, found, after, row)}</p></details>'
    )


def _marked(left: str, found: str, right: str, row: Mapping[Any, Any]) -> str:
    """What was found in its context, with blanks where the text has them."""
    before = "" if not left or touches(left, opening=True) else " "
    after = "" if not right or touches(right, opening=False) else " "
    contexts = _with_collocate(left, row, -1), _with_collocate(right, row, 1)
    return f'{contexts[0]}{before}<b>{escape(found)}</b>{after}<span class="t">{contexts[1]}</span>'


def _with_collocate(text: str, row: Mapping[Any, Any], side: int) -> str:
    """A context with the word near it marked, where the lines are of collocates or links."""
    distance = int(row["distance"]) if "collocate" in row and "distance" in row else 0
    where = beside(text, str(row["collocate"]), distance) if distance * side > 0 else None
    if where is None:
        return escape(text)
    first, after = where
    return f"{escape(text[:first])}<strong>{escape(text[first:after])}</strong>{escape(text[after:])}"
