"""The songbook's own kind of file: its shape, its versions, reading and writing it."""
