"""The web application: pages, fragments and the JSON API."""
