"""Whether the light affords it."""
