"""Pure computation: arrays and dataclasses in, dataclasses out. No files, clock, network or interface."""
