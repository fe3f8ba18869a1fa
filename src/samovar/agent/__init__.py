"""A machine under test that is another one: the agent that runs there, and this end of the wire.

What runs there is the standard library's alone, of Python 3.9 or newer: the sources, the loads and the guard are the very
ones that measure this machine.
"""
