"""From files to documents."""
