"""Microphones: sound as it comes in, as a source of levels and third octaves."""
