"""A simulated lighting console: a patch read from a channel hookup CSV, cues with times, sACN out.

rig.py reads the CSV, cues.py makes a cue list for whatever rig it finds, playback.py is what plays, and process.py the
program: commands as JSON lines in, its state as JSON lines out.
"""
