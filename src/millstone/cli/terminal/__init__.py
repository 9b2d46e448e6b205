"""What is shown on a screen: tables, marked texts, messages and progress."""
