"""The commands, one a module: each adds its words and runs."""
