"""MVR-xchange (in DIN SPEC 15801): rigs told, asked for and given between stations of a network.

wire.py is the packets; conversation.py one connection, both ends asking and answering; messages.py what is said on it;
station.py this program as a station; finding.py stations by mDNS. What is said beyond the standard: docs/xchange.md.
"""
