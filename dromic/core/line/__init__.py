"""What the whole line says before the search: notes that go on, figures that move, the stroke a place in the beat wants."""
