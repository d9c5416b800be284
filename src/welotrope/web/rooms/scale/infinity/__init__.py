"""Where infinity lies."""
