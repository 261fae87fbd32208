"""The job itself: pure functions and values.

Nothing here opens a file, a socket or a thread, or asks the clock. It may use numpy and other pure computing
libraries. Lengths are metres, angles radians unless a name says otherwise; right-handed axes: +X stage left,
+Y upstage, +Z up; rotations are unit quaternions (x, y, z, w).
"""
