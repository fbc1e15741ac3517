"""What costs a hand, takes its time or is forbidden to it: one row each, over the facts it reads."""
