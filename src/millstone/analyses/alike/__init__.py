"""Words used alike."""
