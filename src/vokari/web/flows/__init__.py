"""Pages of flows: the sheet, versions, files, rehearsals."""
