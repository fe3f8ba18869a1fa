"""Setups held against each other: the passes of one rig, load and figure are one experiment."""
