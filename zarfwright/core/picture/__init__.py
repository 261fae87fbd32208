"""From features to what the stage draws: one row of numbers for each beam.

The same function makes every frame: live, held, a look recalled, two looks compared. `constants` has what a type is,
`table` puts a rig together of them, `frame` does what is done for each frame.
"""

from zarfwright.core.picture.fields import COLUMN, FIELDS, SPINS, luminance_share
from zarfwright.core.picture.frame import BeamTable
from zarfwright.core.picture.table import beam_table

__all__ = ["COLUMN", "FIELDS", "SPINS", "BeamTable", "beam_table", "luminance_share"]
