"""The application around the rooms: start, security, the desk, errors, base page."""
