"""What makes heat: a small protocol, and the loads of our own that answer it on this machine."""
