"""One folder per room of the interface."""
