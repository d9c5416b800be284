"""Backups, and everything in and out."""
