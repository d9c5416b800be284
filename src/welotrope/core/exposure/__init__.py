"""Light, shutter time and movement: what a stop can be afforded with."""
