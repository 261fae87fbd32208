"""What is asked of people in crowds, worked out another way than they are placed."""

import numpy as np


def nearest_m(who):
    """The least distance between two people, infinite for fewer than two: by trying all pairs."""
    at = np.asarray(who.places)[:, :2]
    if len(at) < 2:
        return np.inf
    apart = np.linalg.norm(at[:, None] - at[None], axis=-1)
    return apart[~np.eye(len(at), dtype=bool)].min()


def in_aisle(crowd, x, y):
    """Whether a place lies in one of a crowd's aisles: between its ends, and no further from its line than half its
    width."""
    for x0, y0, x1, y1, wide in crowd.aisles:
        run = np.hypot(x1 - x0, y1 - y0)
        along = ((x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)) / run
        beside = abs((x - x0) * (y1 - y0) - (y - y0) * (x1 - x0)) / run
        if 0 < along < run and beside < wide / 2 - 1e-9:
            return True
    return False
