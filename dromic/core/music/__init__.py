"""What is written: phrases and songbooks, what they state, and how they are cut into what can be written down."""
