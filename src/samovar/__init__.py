"""Samovar: a terminal bench for people who review coolers, cases, boards and compact computers."""

__version__ = "0.1.0"
