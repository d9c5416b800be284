"""The field page: what one takes along on the phone."""
