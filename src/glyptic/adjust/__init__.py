"""The kinds of layers: one file per kind, each with its declared settings and what it does to pixels."""

from glyptic.adjust.kind import Kind
from glyptic.base.registry import Registry

KINDS: Registry[Kind] = Registry("glyptic.adjust", Kind)
"""Every kind of layer by name, found by loading this package."""

__all__ = ["KINDS", "Kind"]
