"""From a plan to practice: drills, tempos, sittings, and what the log of passes says."""
