"""What texts are like: frequencies, profiles, the documents x terms matrix, and what looks wrong in them."""
