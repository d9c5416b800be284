"""The page itself, and the book of tables it comes with."""
