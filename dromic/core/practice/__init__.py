"""From a plan to practice: drills, tempos, sessions, and what the log of passes says."""
