"""What stands on a screen: tables, marked texts, messages and progress."""
