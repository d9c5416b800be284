"""The application around the rooms: put together, served and guarded."""
