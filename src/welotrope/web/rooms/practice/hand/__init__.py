"""My accuracy: what it may promise, how it changes, and what is set aside."""
