"""What sets groups apart: keyness, log odds, contrasts of values, their intervals, notes and trends."""
