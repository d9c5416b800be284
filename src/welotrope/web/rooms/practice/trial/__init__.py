"""The result of a round."""
