"""Reviewing where focus landed."""
