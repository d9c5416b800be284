"""Bodies, lenses, mounts and adapters: making, changing and deleting them."""
