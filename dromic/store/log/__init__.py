"""The log of practice: its tables, its passes in and out, what is read off it, and the one that writes while others hold it."""
