"""Patch lists from elsewhere: what their columns mean, and how they differ from the show, by cause."""
