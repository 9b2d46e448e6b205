"""From texts to integers: blocks of text, counts of a block, worker processes, ids of words and pieces."""
