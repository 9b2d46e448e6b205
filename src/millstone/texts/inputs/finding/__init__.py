"""What the inputs name: folders, addresses, stretches of long files."""
