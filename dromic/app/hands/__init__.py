"""The page of the hands: numbers, habits, and where players disagree."""
