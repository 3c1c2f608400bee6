"""Checks: what may be wrong with the work, found with its evidence and its place; one file each."""

from glyptic.base.registry import Registry
from glyptic.checks.check import Check, Finding, Mend

CHECKS: Registry[Check] = Registry("glyptic.checks", Check)
"""Every check by name, found by loading this package."""

__all__ = ["CHECKS", "Check", "Finding", "Mend"]
