"""Someone close."""
