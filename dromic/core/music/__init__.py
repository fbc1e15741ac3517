"""What is written: phrases and songbooks, editing them, and the positions, fingers and strokes they state."""
