"""What more than one picture is drawn with: the painted view, axes, scales and marks of loads and ceilings, picks and leans."""
