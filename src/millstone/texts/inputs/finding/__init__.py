"""Finding inputs: folders, addresses, stretches of long files."""
