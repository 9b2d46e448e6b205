"""The tool kit of figures: theme, panels, labels, colours, packing."""
