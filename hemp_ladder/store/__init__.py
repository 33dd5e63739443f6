"""What is kept: rows in PostgreSQL, blobs in an object store."""
