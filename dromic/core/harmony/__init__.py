"""Keys, chords and spelling: what notes are to each other."""
