"""The one scale of all bars that show a load."""

from __future__ import annotations

HIGHEST_LOAD = 1.6
"""a load that fills its bar; 1 is all the time there is"""
