"""The same page as one file that needs no server, and its log on the way back."""
