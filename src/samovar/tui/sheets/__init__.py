"""Sheets that lie over a place: forms, choices, questions."""
