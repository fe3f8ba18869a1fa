"""The one error of bad input."""

from __future__ import annotations


class InputError(Exception):
    """Input that cannot be used: one line that says where, what, and what to do."""
