"""Simulated outside devices: separate programs that speak real protocols over the loopback.

They know nothing of the program (contract in pyproject.toml): only the files and packets they are given.
"""
