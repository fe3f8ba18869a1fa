"""The service between bench and archive: a run under way, kept as it comes, sealed in one guarded way."""
