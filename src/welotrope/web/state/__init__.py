"""What the address says: the ring, the aim, and whose hand it is."""
