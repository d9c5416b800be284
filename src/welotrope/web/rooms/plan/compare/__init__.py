"""The same zone by other kit."""
