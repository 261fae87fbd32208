"""Lasers: what is drawn by them (`frames`)."""
