"""MIDI files."""
