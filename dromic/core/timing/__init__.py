"""When things come: the order of playing through repeats, the beats, and the time the pick has."""
