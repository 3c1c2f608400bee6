"""The brush: from pointer points to dabs, from dabs to coverage, from strokes to a painting."""
