"""The command line: what scripts call, and the way into the interface."""
