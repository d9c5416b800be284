"""The photographer's own record: trials, and what they say."""
