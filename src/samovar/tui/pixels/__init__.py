"""Pictures in pixels, where the terminal takes them by an open protocol."""
