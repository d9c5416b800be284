"""The constants the aids are judged by."""
