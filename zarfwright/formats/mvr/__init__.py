"""MVR (DIN SPEC 15801): a zip with a description of the scene, the GDTF files of its types, and its meshes.

`read` gives the scene and its findings, `write` makes a file of what a show offers, `keep` brings back what of an older
file nobody here understands or has changed. `values` has the small values of its XML.
"""

from zarfwright.formats.mvr.read import MvrFile, read_mvr
from zarfwright.formats.mvr.write import OlderFile, write_mvr

__all__ = ["MvrFile", "OlderFile", "read_mvr", "write_mvr"]
