"""Groups that are compared: pairs of them, lists in the place of one, notes on rows."""
