"""Decoders that run in a process of their own, with limits: what a hostile file makes of them stays there.

They import nothing of this program, so that the process begins quickly. `python -m glyptic.decoders` reads a request
from standard input and answers with the samples (see `__main__`).
"""
