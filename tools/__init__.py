"""What is made with the application, but does not ship with it."""
