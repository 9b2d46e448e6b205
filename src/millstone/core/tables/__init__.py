"""Tables, the meaning of their columns, and results."""
