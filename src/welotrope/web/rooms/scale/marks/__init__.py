"""What the depth marks imply."""
