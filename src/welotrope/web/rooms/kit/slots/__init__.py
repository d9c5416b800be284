"""The card of lens slots of a body."""
