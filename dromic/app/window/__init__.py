"""The window: its pages, its keys, its top bar, and the hook for faults."""
