"""Rounds in the simulated finder and the record of them."""
