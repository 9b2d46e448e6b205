"""The command line: argparse, messages, terminal tables."""
