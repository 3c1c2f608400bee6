"""Edits: document to document. Each is declared with its arguments; the log's sentence comes with the result."""

from glyptic.base.registry import Registry
from glyptic.document.edits.edit import Edit, Edited, Unchecked

EDITS: Registry[Edit] = Registry("glyptic.document.edits", Edit)
"""Every edit by name, found by loading this package."""

__all__ = ["EDITS", "Edit", "Edited", "Unchecked"]
