"""Samovar's tests, shaped like src/samovar."""
