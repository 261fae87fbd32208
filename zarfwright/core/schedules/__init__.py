"""Schedules: what hangs where, what it needs, what it weighs, as tables that a crew works from.

`table` is what one is, and how it is arranged, `lists` names them all; each of the others makes the rows of some.
"""
