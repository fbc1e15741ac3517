"""From a request to the best plan: the lattice of both hands, the way through it, and what is read off that way."""
