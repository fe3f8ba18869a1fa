"""Surfaces: plans with their spots and areas, temperature pictures, and what both say."""
