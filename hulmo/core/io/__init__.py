"""Files: the project file and the exchange formats."""
