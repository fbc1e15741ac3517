"""Drills made from a plan: each a phrase of its own, with its reason."""
