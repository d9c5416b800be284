"""Which aid resolves the focus wanted."""
