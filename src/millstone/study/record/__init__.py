"""The record of the work: summaries, commands as one types them, methods in prose, the report, the bundle."""
