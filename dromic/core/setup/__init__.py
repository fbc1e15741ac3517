"""What is brought along: the instrument, the player and the school, and what was chosen, pinned or decided."""
