"""A live picture, measured while the ring turns: how sharp a spot is beside the sharpest it has been."""
