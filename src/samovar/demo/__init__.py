"""The demo: Harbour FM's voice booth, recorded by the simulator through the ordinary bench."""
