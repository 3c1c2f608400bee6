"""The ground everything stands on: errors, digests, rectangles, the registry."""
