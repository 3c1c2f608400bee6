"""Numbers and pixels: working space, tone, smooth steps, Gaussian, reduction, resampling.

Pictures are planar float32 arrays (channels, height, width); values are encoded and nominally in 0..1, and may
leave that range between layers.
"""
