"""What a lens’s plane does as it stops down."""
