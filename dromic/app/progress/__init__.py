"""Pictures of practice: how far each note is, day by day, and what the log says of the hands."""
