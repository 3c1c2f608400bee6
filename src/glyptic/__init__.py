"""Glyptic: adjustment layers, hand-painted masks and grey layers for photo retouchers."""

__version__ = "0.1.0"
