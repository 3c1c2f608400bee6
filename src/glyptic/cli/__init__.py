"""The `glyptic` command."""
