"""A simulated laser feed: a program of its own that sends figures as numbered streams over the loopback.

patterns.py are its own figures, ild.py its own reader of ILDA files, process.py the program. It knows of the show
nothing; what it sends is the documented UDP stream (docs/laser-stream.md).
"""
