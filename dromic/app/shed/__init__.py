"""Practice: today's sitting, a drill that runs, what the log knows."""
