"""Focusing aids: how finely each shows the plane of focus, and which to use."""
