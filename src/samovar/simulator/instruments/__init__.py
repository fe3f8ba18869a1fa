"""Instruments that are not there, each speaking the protocol of a real one on the loopback: for the demo, and for tests."""
