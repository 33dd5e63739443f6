"""The computation: no web framework, no database, no front end."""
