"""Pages: the report of a study, a table, lines of a concordance, marked texts; one file each, without a network."""
