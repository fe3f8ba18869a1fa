"""Instruments beside the machine, each asked by the protocol it speaks: one protocol, one file."""
