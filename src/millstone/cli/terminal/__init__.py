"""The screen: tables, marked texts, messages and progress."""
