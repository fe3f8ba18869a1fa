"""Which methods readings come from."""

from __future__ import annotations

METHOD_VERSION = 13
"""Raised with every change that can move a figure: stored findings of an older version are recomputed."""
