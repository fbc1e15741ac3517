"""What stands around the pages and between them, and knows no window."""
