"""Samovar's tests, shaped like src/samovar.

Property tests run the same examples every time: whether `make test` passes must not be a matter of luck. What they or
anybody else ever found is an example of theirs; `make fuzz` looks for more, with fresh seeds.
"""

from hypothesis import settings

# How fast the machine is today is the bench's business.
settings.register_profile("unhurried", deadline=None, derandomize=True, database=None)
settings.load_profile("unhurried")
