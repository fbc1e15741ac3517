"""Weigh: all schools side by side, two plans bar by bar, and questions answered."""
