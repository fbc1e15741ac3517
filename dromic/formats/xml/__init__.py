"""Notation: what other programs write, read with a library of music, and written out."""
