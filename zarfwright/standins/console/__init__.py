"""A simulated lighting console: a program of its own that speaks to the show only over the loopback.

patch.py is what it knows of a rig, by way of its own readers of lists (hookup.py), GDTF (gdtf.py) and MVR (mvr.py);
offers.py weighs a rig that is offered against the patch that is there. desk.py is the console, with what it plays
(playback.py over lanes.py, cues.py) and keeps; commands.py what can be pressed on it; story.py a cue list for any rig.
Its lines: output.py (sACN, Art-Net), wire.py, station.py and found.py (MVR-xchange), osc.py; process.py ties them.
"""
