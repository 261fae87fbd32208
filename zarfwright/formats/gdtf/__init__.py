"""GDTF (DIN SPEC 15800): reading and writing fixture types.

Read: attributes, wheels with slots and images, emitters, filters and their spectra, curves, models (GLB and 3DS), every
kind of geometry with references opened, modes, breaks, channels of 8 to 32 bits and virtual ones, several logical
channels, functions, sets, masters, relations, defaults and highlights. An untouched file is kept byte for byte; a type
that was changed is written anew and keeps what we have no view of.
"""

from zarfwright.formats.gdtf.read import read_gdtf, repack
from zarfwright.formats.gdtf.write import Written, write_gdtf, written

__all__ = ["Written", "read_gdtf", "repack", "write_gdtf", "written"]
