"""From the network to the picture: receivers, the wire format of frames, and the live process.

No Flask, no SQLite: the live process must not wait for the desk. It gets the compiled patch and commands over a pipe.
"""
