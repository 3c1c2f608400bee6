"""Mask parts: one file per kind, each with its declared settings and what it covers."""

from glyptic.base.registry import Registry
from glyptic.masks.part import PartKind

PARTS: Registry[PartKind] = Registry("glyptic.masks", PartKind)
"""Every kind of mask part by name, found by loading this package."""

__all__ = ["PARTS", "PartKind"]
