"""What sets groups apart: terms, categories, values of documents."""
