"""Keeps what a player made: documents and the logbook. Empty until there is something to keep."""
