"""Devices of the local network: pairing them, and letting them in no more."""
