"""The set-up sheet in the field."""
