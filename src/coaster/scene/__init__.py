"""The document: frozen typed values, their codec and their upgrades."""
