"""Takes against the plan: heard, simulated, shown over the predicted loads."""
