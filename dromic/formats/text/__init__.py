"""Kinds that are plain text: quick lines and tablature."""
