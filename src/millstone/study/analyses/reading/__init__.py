"""Back to the text: places, lines, company, branches."""
