"""Planning: zones, hyperfocal settings and what falls outside them."""
