"""What a manual's table says, as text: ranges of a channel, and whole lists of channels.

`numbers` finds the numbers and ranges of a line, `ranges` reads a table of one channel, `meanings` what the words of a
range mean, `names` what a channel does, `channels` reads a whole list. Whatever is not understood keeps its words and
its place, and says so: nothing is guessed in silence.
"""
