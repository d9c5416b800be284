"""What was pencilled, typed in line by line."""
