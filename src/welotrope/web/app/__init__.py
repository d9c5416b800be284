"""The application around the rooms: start, security, request context, errors, base page."""
