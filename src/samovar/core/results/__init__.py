"""Results: every figure a run gives that can be held against another run's."""
