"""Giving the data back: sidecars beside pictures, shown before they are written, and put back if need be."""
