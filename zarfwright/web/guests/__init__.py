"""Guests of a review: who looks on from another device. They have a door of their own, on a port of its own, that
knows nothing of the desk's routes: `sharing` (keys, who is there, what is shown), `door` (the few things that a guest
may ask), `serving` (the port), and the page itself."""
