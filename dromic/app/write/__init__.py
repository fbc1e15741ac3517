"""Write: the grid, the pen, its keys, and the line that is typed."""
