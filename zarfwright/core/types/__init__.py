"""Fixture types: what a type is, the features its channels drive, and the body it has. Files are in `formats/gdtf`."""
