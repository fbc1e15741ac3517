"""What stands out in a plan, and why: one rule, one entry."""
