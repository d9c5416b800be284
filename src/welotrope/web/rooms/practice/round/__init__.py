"""A round being played."""
