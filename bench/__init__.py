"""Samovar's own measurements: how fast and how light it is, side by side with what is promised."""
