"""The scanned texts and what is done to texts around the scan: cleaning, repeats, units, the table of documents."""
