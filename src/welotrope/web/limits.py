"""How much a request may bring."""

MAX_BODY_BYTES = 2 * 1024 * 1024
