"""Pictures: brought in, matched to frames, and served."""
