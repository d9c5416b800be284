"""Long work: how far it is, stopping it, what came of it."""
