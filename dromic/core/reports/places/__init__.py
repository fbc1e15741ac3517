"""Lists that players make by hand of a planned phrase, by what they are about."""
