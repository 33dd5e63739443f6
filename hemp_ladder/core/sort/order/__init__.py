"""The job's own order over the source's: what things are called, and which stand together."""
