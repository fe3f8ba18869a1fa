"""Widgets of our own: the rail, the strips, the grid's cells, the ladder."""
