"""From a result table to a Matplotlib figure: drawing, panels, labels, one theme."""
