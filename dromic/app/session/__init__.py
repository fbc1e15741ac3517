"""A session that runs: what it goes through, its sound, its pedal, and the view that is read from the stand."""
