"""What one change would bring: remedies, what if, alternatives, the player's own way, questions answered."""
