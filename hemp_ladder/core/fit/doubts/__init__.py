"""What a source itself says against its declared size and up axis, and which mistakes explain it."""
