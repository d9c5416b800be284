"""Zones that leave no gap."""
