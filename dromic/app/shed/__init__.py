"""Practice: today's session, a drill that runs, what the log knows."""
