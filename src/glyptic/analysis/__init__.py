"""Measures of a picture and of what a layer does to it."""
