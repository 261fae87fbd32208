"""The programs that the desk starts, watches and talks to."""
