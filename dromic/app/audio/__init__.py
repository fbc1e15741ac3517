"""What is heard."""
