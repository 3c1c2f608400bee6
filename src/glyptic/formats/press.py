"""The practice press: a made-up press, so that printing can be tried without one (scripts/make_press.py)."""

from __future__ import annotations

from functools import cache
from importlib.resources import files


@cache
def press_profile() -> bytes:
    """Its profile, of four inks."""
    return files("glyptic.formats").joinpath("practice-press.icc").read_bytes()
