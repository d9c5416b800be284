"""Reading and writing the quantities photographers use: distances, stops, shutter times."""
