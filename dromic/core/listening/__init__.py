"""A take against its plan: what is due, what was heard, which belongs to which, and what is said of it."""
