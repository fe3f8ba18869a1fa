"""Samovar's tests, shaped like src/samovar."""

from hypothesis import settings

# How fast the machine is today is the bench's business.
settings.register_profile("unhurried", deadline=None)
settings.load_profile("unhurried")
