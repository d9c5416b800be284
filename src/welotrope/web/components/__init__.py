"""What pages are made of: a folder each with macro, style, script and what it draws from."""
