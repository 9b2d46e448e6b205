"""Makes what follows from the declarations of settings: manual, reference, completion, the stub for editors."""

from pathlib import Path

from millstone.cli.main import SHELLS
from millstone.cli.manual.commands import manual
from millstone.cli.manual.completion import script
from millstone.cli.manual.markdown import overview, reference_page
from millstone.cli.manual.roff import manual_page, overview_page
from millstone.cli.manual.tables import tables_page
from millstone.library.signatures import stub

ROOT = Path(__file__).parent.parent


def made() -> dict[str, str]:
    """Path of each file, from the folder of the project -> its content."""
    pages = manual()
    found = {"docs/man/millstone.1": overview_page(pages), "docs/reference/index.md": overview(pages)}
    found |= {f"docs/man/millstone-{page.name}.1": manual_page(page) for page in pages}
    found |= {f"docs/reference/{page.name}.md": reference_page(page) for page in pages}
    found["docs/reference/tables.md"] = tables_page()
    found |= {f"src/millstone/data/completion/{shell}": script(shell, pages, SHELLS) for shell in SHELLS}
    return {**found, "src/millstone/__init__.pyi": stub()}


def main() -> None:
    """Write them all."""
    for name, content in made().items():
        path = ROOT / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(content, encoding="utf-8")


if __name__ == "__main__":
    main()
