"""The house around the application: installing, starting, stopping. Python's own library only."""
