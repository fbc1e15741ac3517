"""What goes on paper and into tables: only written, never read."""
