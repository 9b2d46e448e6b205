"""From a result table to a Matplotlib figure: one module a kind, one theme."""
