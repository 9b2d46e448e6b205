"""Named lists of one's own: text files in the folder of lists, which an option names without their path."""

from pathlib import Path

_ENDING = ".txt"


def folder_of_lists() -> Path | None:
    """The folder of one's own lists; None for a user without a home."""
    from platformdirs import user_config_path

    try:
        folder = user_config_path("millstone", appauthor=False) / "lists"
    except RuntimeError:
        return None
    return folder if folder.is_absolute() else None


def own_lists() -> dict[str, Path]:
    """Name -> the file of each of one's own lists, in order of name."""
    folder = folder_of_lists()
    if folder is None or not folder.is_dir():
        return {}
    return {path.stem: path for path in sorted(folder.iterdir()) if path.suffix == _ENDING and path.is_file()}


def own_list(name: str) -> Path | None:
    """The file of one's own list of this name, if there is one."""
    if not name or name.startswith(".") or any(sign in name for sign in "/\\:*?"):
        return None
    folder = folder_of_lists()
    path = folder / f"{name}{_ENDING}" if folder is not None else None
    return path if path is not None and path.is_file() else None
