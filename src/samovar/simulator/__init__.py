"""Made-up rigs: physics, firmware and fans, shown through a kernel-shaped tree of files.

Nothing outside this package knows that a rig is simulated: the sources read its tree as they read a
real machine's, and its load and clock answer the same protocols.
"""
