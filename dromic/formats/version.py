"""The version of Dromic's own document."""

VERSION = 1
