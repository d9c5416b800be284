"""One module per topic; each function takes a session and speaks core values."""
