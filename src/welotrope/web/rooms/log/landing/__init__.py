"""Pictures that land in a watched folder."""
