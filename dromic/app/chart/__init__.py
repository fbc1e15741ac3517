"""The chart, its overview, the neck and the view for the music stand."""
