"""The Cast page and what is on it."""
