"""Bytes to core values and back, one module or folder for each open format. Everything ends in an edit.

A reader returns the thing and its findings (where, what, what was done about it), and raises FormatError only for a
file that cannot be used at all.
"""
