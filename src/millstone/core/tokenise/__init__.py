"""Where a text is cut: the word rule, the other token rules, runs of bytes, ends of sentences."""
