"""What goes between a show and consoles besides levels: rigs offered and compared, values handed over.

consoles.py is what a show keeps of a console; handshake.py what fits between two stations; answers.py what a console
said to an offer, line by line; listed.py its rig as a patch list. The wire is links/xchange and links/osc.
"""
