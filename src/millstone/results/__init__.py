"""From a result table to a file: formats, companion metadata, safe writing."""
