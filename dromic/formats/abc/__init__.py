"""ABC tunes, after the standard 2.1."""
