"""Files: written whole or not at all, locked, kept in folders here or in object storage; the ledger of made files."""
