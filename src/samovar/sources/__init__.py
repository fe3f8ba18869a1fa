"""Where samples come from: one small protocol, and the sources that answer it."""
