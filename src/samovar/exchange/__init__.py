"""Logs in and out: reading recordings that others made, writing ours in open formats."""
