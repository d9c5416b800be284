"""The record of the hand, and a round to choose."""
