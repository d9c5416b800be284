"""Pictures: what is known of them, where they are sharp, and which frame each belongs to."""
