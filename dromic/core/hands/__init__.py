"""What each hand can do at an event, and what it costs to get from one way to another."""
