"""The tolerances of computation.md, by name."""

EXACT = 1e-3
"""Agreement with an independent renderer where nothing is blurred, on SHARE of the pixels."""
BLURRED = 2e-3
"""The same where a blur or feather takes part."""
SHARE = 0.999
GAUSSIAN = 2e-4
"""What a blur on a reduced picture differs from the exact Gaussian at most; the contract allows 5e-4."""
OUTLINE = 1 / 64
"""Coverage of an outline."""
FLOAT32 = 2e-6
"""Rounding of a few float32 operations."""
W3C = 1e-5
"""Agreement of blend modes with an independent implementation in float32."""
REDUCED_BASE = 0.05
"""What an adjustment on a base that is worked out on a reduced picture of noise differs from the whole at most."""
