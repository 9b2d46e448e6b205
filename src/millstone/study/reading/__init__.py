"""Places in the texts of a step: what is looked for, its contexts, and what lies behind a number."""
