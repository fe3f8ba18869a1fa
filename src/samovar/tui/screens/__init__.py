"""The places of the interface, one file each."""
