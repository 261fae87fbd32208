"""The live process: receive, merge, decode, publish. Started and watched by the desk; ends when the desk ends.

engine.py is the state and the computation, receive.py the UDP thread, serve.py the WebSocket side, process.py the pipe
to the desk and the main function.
"""
