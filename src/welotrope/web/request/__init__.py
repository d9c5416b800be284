"""What a route works with: the request's transaction, the selected set-up, rendering and flash messages."""
