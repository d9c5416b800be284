"""Test shots."""
