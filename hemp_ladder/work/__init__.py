"""Work that is long or may crash: child processes, shelves, queued tasks."""
