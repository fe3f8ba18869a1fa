"""What a load shows: its signals, cleaned; sawteeth in them; what the graphics take of a common budget."""
