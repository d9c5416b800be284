"""Outings, frames and what they showed."""
