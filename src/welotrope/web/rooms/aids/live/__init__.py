"""The Live section."""
