"""Fixtures on the rig: how they hang, how several are spread, how they are numbered."""
