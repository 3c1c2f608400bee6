"""The demo shelf: made-up studio photographs, untouched and worked."""
