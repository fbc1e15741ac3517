"""Dromic plans both hands of a picked phrase: strokes, strings, frets and fingers in one search."""

__version__ = "0.1.0"
