"""Light: colour, the shape of a beam, and what leaves the lens in real units."""
