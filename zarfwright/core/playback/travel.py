"""How heads get from one place to the next: with limited speed and acceleration, a trapezoid over time.

Distances, speeds (a second) and accelerations (a second squared) are in the feature's own unit; infinite where nothing
limits them. A way may be given more time than it needs: then its speed is lower.
"""

from __future__ import annotations

import numpy as np

from zarfwright.core.space import Floats


def least_time(way: Floats, speed: Floats, acceleration: Floats) -> Floats:
    """The shortest time (s) in which a way can be made from rest to rest.

    With d = |way|: d / v + v / a where the full speed is reached (d >= v^2 / a), else 2 sqrt(d / a).
    """
    far = np.abs(way)
    with np.errstate(divide="ignore", invalid="ignore"):
        ramp = np.where(np.isinf(acceleration), 0.0, speed / acceleration)
        ramp = np.where(np.isinf(speed), np.inf, ramp)
        reached = far >= np.where(np.isfinite(ramp), speed * ramp, np.inf)
        at_speed = np.where(np.isinf(speed), 0.0, far / speed) + np.where(np.isfinite(ramp), ramp, 0.0)
        short = np.where(np.isinf(acceleration), at_speed, 2.0 * np.sqrt(far / acceleration))
    return np.asarray(np.where(far == 0.0, 0.0, np.where(reached, at_speed, short)))


def share_of_way(elapsed: Floats, time: Floats, way: Floats, acceleration: Floats) -> Floats:
    """How much of a way is made (0 to 1) after `elapsed` seconds of `time`, from rest to rest.

    The speed v between the ramps solves d = v (T - v / a): v = (a T - sqrt((a T)^2 - 4 a d)) / 2. Without a limit it is
    even from start to end.
    """
    far = np.abs(way)
    t = np.clip(elapsed, 0.0, time)
    free = np.isinf(acceleration)
    a = np.where(free, 1.0, acceleration)
    with np.errstate(divide="ignore", invalid="ignore"):
        # In this form nothing is lost where the ramps are short against the way.
        root = np.sqrt(np.maximum((a * time) ** 2 - 4.0 * a * far, 0.0))
        v = 2.0 * a * far / (a * time + root)
        ramp = v / a
        left = time - t
        made = np.where(t < ramp, a * t**2 / 2, np.where(left < ramp, far - a * left**2 / 2, v * (t - ramp / 2)))
        share = np.where(free, t / time, made / far)
    share = np.where((time <= 0.0) | (far == 0.0), np.where(elapsed >= 0.0, 1.0, 0.0), share)
    return np.asarray(np.where(elapsed >= time, np.where(elapsed >= 0, 1.0, 0.0), np.clip(share, 0.0, 1.0)))
