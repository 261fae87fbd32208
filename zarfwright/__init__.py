"""Zarfwright: previsualization of stage lighting. docs/tour.md says where things are."""

__version__ = "0.1.0"
