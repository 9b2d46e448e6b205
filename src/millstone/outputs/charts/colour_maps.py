"""The colour maps that can be named."""

MAPS = ("viridis", "cividis", "plasma", "inferno", "magma", "Blues", "Greens", "Greys", "Oranges", "Purples", "Reds")
"""The colour maps of the plotting library that run evenly from dark to light, or from light to dark."""
