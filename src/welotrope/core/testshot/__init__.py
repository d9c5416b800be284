"""Pictures of printed sheets, measured: where the plane of focus fell."""
