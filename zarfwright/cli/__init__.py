"""The command line: `commands` has all of them, `gdtf` those for fixture type files."""

from zarfwright.cli.commands import main

__all__ = ["main"]
