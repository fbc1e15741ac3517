"""Keeps what a player made: documents, and what was not saved when the program went away."""
