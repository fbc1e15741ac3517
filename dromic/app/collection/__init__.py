"""A whole collection ranked for these hands."""
