"""What lies on the disk beside texts and tables: ledgers, locks, rooms of unfinished files, private files."""
