"""The interface: a thin application, its places, its widgets and one theme."""
