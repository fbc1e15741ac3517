"""The songbook that is open: its phrases and their undo, its file, exports, and the view to start from."""
