"""What a manual's table says, as text: ranges of a channel, and whole lists of channels with their modes.

`counting` says slots and labels in one way, `cells` parts lines into cells, `columns` finds which stand under each
other, `heads` knows what heads and cells may be, `grid` settles what each column holds. `blocks` (lines) and `rows`
(of columns) give one block a channel, `single` does so where each cell has a line of its own, `groups` takes apart what
stands for several channels, `appendix` gives tables behind the list to its channels, `channels` puts the modes
together. `numbers` finds the values in a line, `ranges` reads a table of one channel, `missed` tells what came into
none. What words mean: `names` (of channels), `meanings` (of ranges; `flashing`, `turning`), by what `wording` finds.

Whatever is not understood keeps its words and its place, and says so; what was assumed says that: nothing is guessed
in silence.
"""
