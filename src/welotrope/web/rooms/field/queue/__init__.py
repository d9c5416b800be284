"""What the page sends back."""
