"""What is in hand, and everything owned."""
