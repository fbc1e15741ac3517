"""Plan: what is planned and with which choices, what was found, and the player's hands."""
