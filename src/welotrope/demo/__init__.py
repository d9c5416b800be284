"""The made-up world of Skarnmere Slip, built through the functions a user's actions use."""
