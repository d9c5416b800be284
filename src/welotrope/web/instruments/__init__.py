"""Drawing data of the two instruments: the unrolled ring and the ground strip."""
