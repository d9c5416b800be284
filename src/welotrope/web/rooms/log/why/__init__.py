"""Why it missed: where focus lands with the set-up in hand, and which cause carries the evidence."""
