"""Sound: what a recording of a fan says, and levels that people read."""
