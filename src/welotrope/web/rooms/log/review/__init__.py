"""Looking at pictures: what they show, and where focus fell."""
