"""Files on disk: the ledger of a folder, locks, and staging of what is written together."""
