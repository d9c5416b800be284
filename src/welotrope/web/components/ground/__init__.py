"""The ground strip: the scene from the side."""
