"""Cards of an outing on paper."""
